using System.Text;
using System.Text.RegularExpressions;
using System.Xml.Linq;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Templates;
using LoftyWren.Core.Tests;
using LoftyWren.Formats.Logic;

namespace LoftyWren.Formats.Tests.Logic;

/// <summary>Logic as IEC 61131-10 has it: what was written here is read back to the very same; what others wrote is taken over as far as it can be, and the rest is said.</summary>
public class LogicTests
{
    private static readonly DateTimeOffset Today = new(2026, 11, 27, 0, 0, 0, TimeSpan.Zero);

    private static string Json(Sequence sequence) => RecordJson.Write(sequence with { Clauses = [], Tests = [] });

    private static string Xml(Project project, Sequence sequence) => Encoding.UTF8.GetString(LogicXml.Write(project, sequence, Today));

    internal static void IsReadBack(Project project, Sequence sequence)
    {
        string xml = Xml(project, sequence);
        LogicReading reading = LogicXml.Read(project, sequence with { Blocks = [], Commands = [] }, xml);
        Assert.Equal(Json(sequence), Json(reading.Sequence));
        Assert.Equal(xml, Xml(project, reading.Sequence));
        // Whatever stands in the diagram is the standard's or declared, and each instance is a variable.
        XElement root = XDocument.Parse(xml).Root!;
        var units = root.Descendants().Where(e => e.Name.LocalName is "Function" or "FunctionBlock").Select(e => e.Attribute("name")!.Value).ToHashSet();
        var blocks = root.Descendants().Where(e => e.Name.LocalName == "FbdObject" && e.Attribute("typeName") is not null).ToList();
        Assert.All(blocks.Select(b => b.Attribute("typeName")!.Value), t => Assert.True(units.Contains(t) || StandardBlock.Named(t) is not null || t is "INT_TO_REAL" or "DINT_TO_REAL" or "REAL_TO_INT", t));
        var variables = root.Descendants().Single(e => e.Name.LocalName == "Program").Elements().Where(e => e.Name.LocalName == "Vars").Elements().Select(e => (e.Attribute("name")!.Value, e.Descendants().Single(t => t.Name.LocalName == "TypeName").Value)).ToHashSet();
        Assert.Equal(variables, blocks.Where(b => b.Attribute("instanceName") is not null).Select(b => (b.Attribute("instanceName")!.Value, b.Attribute("typeName")!.Value)).ToHashSet());
    }

    public static TheoryData<BlockKind> Kinds() => [.. BlockType.All.Where(t => !t.IsInner && !t.HasInside).Select(t => t.Kind)];

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Every_kind_with_all_its_settings_comes_back_the_same(BlockKind kind)
    {
        BlockType type = BlockType.Of(kind);
        Point[] points = [.. type.Inputs.Select((p, i) => new Point { Id = new RecordId($"p{i}"), Name = $"Point <{i}> & so", OwnerId = KilnRoom.Room, Kind = p.Kind == PinKind.Binary ? PointKind.Binary : PointKind.Analog, Role = PointRole.Value, StateTexts = p.Kind == PinKind.Binary ? ["off", "on"] : [] })];
        Project project = points.Length == 0 ? KilnRoom.Project() : KilnRoom.Accept(KilnRoom.Project(), points);
        Block block = new()
        {
            Id = "b",
            Kind = kind,
            Label = "‘Ä’ <x> & \"y\"",
            Inputs = type.Inputs.Select((p, i) => (p.Name, i)).ToDictionary(x => x.Name, x => x.i % 3 == 2 ? new ConstantSource(type.Inputs[x.i].Kind == PinKind.Binary ? 1 : -1.25e-7, null, type.Inputs[x.i].Kind == PinKind.Binary) : (Source)new PointSource(points[x.i].Id)),
            Numbers = type.Numbers.ToDictionary(n => n.Name, n => n.Low + ((n.High - n.Low) / 3)),
            Choices = type.Choices.ToDictionary(c => c.Name, c => c.Options[^1].Value),
            Texts = type.Texts.Count == 0 ? null : type.Texts.ToDictionary(t => t.Name, _ => "one; (two)"),
            Tables = type.Tables.Count == 0 ? null : type.Tables.ToDictionary(t => t.Name, t => t.Default),
            OutputUnit = type.ChoosesUnit ? "m³/h" : null,
        };
        // Settings that exclude each other are as they begin.
        if (Sequence.Wrong(block).Any()) block = block with { Numbers = new Dictionary<string, double>() };
        IsReadBack(project, new Sequence { Id = new("seq"), Name = "Seq", EquipmentId = KilnRoom.Fan, Blocks = [block, new Block { Id = "after", Kind = BlockKind.StatusIs, Inputs = new Dictionary<string, Source> { ["in"] = new BlockSource("b", type.Outputs[^1].Name) } }] });
    }

    [Fact]
    public void Sequences_of_the_starter_templates_come_back_the_same_and_are_told_as_text()
    {
        int sequences = 0;
        foreach (Template template in StarterLibrary.Templates.Where(t => t.Records.OfType<Sequence>().Any()))
        {
            PlacingPlan plan = Placing.Plan(KilnRoom.Project(), template, new PlacingRequest([KilnRoom.Room], 2, "Unit {k}"));
            Project project = KilnRoom.Accept(KilnRoom.Project(), [.. plan.Records]);
            foreach (Sequence sequence in plan.Records.OfType<Sequence>())
            {
                IsReadBack(project, sequence);
                string text = StructuredText.Write(project, sequence);
                Assert.All(sequence.Commands.SelectMany(c => c.Claims), c => Assert.Contains($"_P{c.Priority}_ACTIVE := ", text, StringComparison.Ordinal));
                sequences++;
            }
        }
        Assert.True(sequences > 10);
    }

    [Fact]
    public void The_kiln_extract_as_structured_text()
    {
        Project project = KilnRoom.Project();
        string text = StructuredText.Write(project, project.Find<Sequence>(KilnRoom.Sequence)!);
        Assert.Equal("""
            FUNCTION_BLOCK LW_TwoPosition
            VAR_INPUT
              MEASURED : REAL; (* measured *)
              MEASURED_ACTIVE : BOOL := TRUE;
              LIMIT_V : REAL; (* limit *)
              LIMIT_V_ACTIVE : BOOL := TRUE;
              DIFFERENTIAL : REAL := 1.0; (* differential *)
              ACTS : STRING := 'onRise'; (* acts *)
              IDLE : STRING := 'release'; (* when idle *)
            END_VAR
            VAR_OUTPUT
              OUT : BOOL; (* out *)
              OUT_ACTIVE : BOOL := TRUE;
            END_VAR
            END_FUNCTION_BLOCK

            PROGRAM Kiln_room_extract
            VAR_EXTERNAL
              Room_temperature : REAL;
              High_limit : REAL;
              Extract_fan_P10 : BOOL;
              Extract_fan_P10_ACTIVE : BOOL;
            END_VAR
            VAR RETAIN
              Two_position : LW_TwoPosition;
            END_VAR
              Two_position(MEASURED := Room_temperature, LIMIT_V := High_limit, DIFFERENTIAL := 2.0, ACTS := 'onRise', IDLE := 'release');
              Extract_fan_P10 := Two_position.OUT; (* High temperature *)
              Extract_fan_P10_ACTIVE := Two_position.OUT_ACTIVE;
            END_PROGRAM

            CONFIGURATION LW_Configuration
              VAR_GLOBAL
                Room_temperature : REAL; (* Room temperature, °C *)
                High_limit : REAL; (* High limit, °C *)
                Extract_fan_P10 : BOOL; (* Extract fan, priority 10 *)
                Extract_fan_P10_ACTIVE : BOOL; (* whether Extract_fan_P10 claims; else the next priority counts *)
              END_VAR
              RESOURCE LW_Resource ON LW_Controller
                TASK LW_Scan(INTERVAL := T#1s, PRIORITY := 1);
                PROGRAM LW_Instance WITH LW_Scan : Kiln_room_extract;
              END_RESOURCE
            END_CONFIGURATION

            """, Regex.Replace(text, @"^ *\(\*.*\*\)\n", "", RegexOptions.Multiline));
    }

    // A diagram as another tool writes it: names of its own, a time as a literal, a negated input, a variable between two parts, a block that is not here.
    private const string Foreign = """
        <?xml version="1.0" encoding="utf-8"?>
        <Project xmlns="www.iec.ch/public/TC65SC65BWG7TF10" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" schemaVersion="1.0">
          <FileHeader companyName="a" productName="b" productVersion="1"/><ContentHeader name="c" creationDateTime="2026-01-01T00:00:00"/>
          <Types><GlobalNamespace><Program name="Extract"><MainBody><BodyContent xsi:type="FBD"><Network evaluationOrder="1">
            <FbdObject xsi:type="DataSource" identifier="room_temperature" globalId="1"><ConnectionPointOut connectionPointOutId="1"/></FbdObject>
            <FbdObject xsi:type="DataSource" identifier="REAL#29.5" globalId="2"><ConnectionPointOut connectionPointOutId="2"/></FbdObject>
            <FbdObject xsi:type="DataSource" identifier="T#1m30s" globalId="3"><ConnectionPointOut connectionPointOutId="3"/></FbdObject>
            <FbdObject xsi:type="DataSource" identifier="Nobody" globalId="4"><ConnectionPointOut connectionPointOutId="4"/></FbdObject>
            <FbdObject xsi:type="Block" typeName="GT" globalId="5"><InputVariables>
                <InputVariable parameterName="IN1"><ConnectionPointIn><Connection refConnectionPointOutId="1"/></ConnectionPointIn></InputVariable>
                <InputVariable parameterName="IN2"><ConnectionPointIn><Connection refConnectionPointOutId="2"/></ConnectionPointIn></InputVariable></InputVariables>
              <OutputVariables><OutputVariable parameterName="GT"><ConnectionPointOut connectionPointOutId="5"/></OutputVariable></OutputVariables></FbdObject>
            <FbdObject xsi:type="DataSink" identifier="too_warm" globalId="6"><ConnectionPointIn><Connection refConnectionPointOutId="5"/></ConnectionPointIn></FbdObject>
            <FbdObject xsi:type="DataSource" identifier="Too_Warm" globalId="7"><ConnectionPointOut connectionPointOutId="7"/></FbdObject>
            <FbdObject xsi:type="Block" typeName="TON" instanceName="Wait_a_little" globalId="8"><InputVariables>
                <InputVariable parameterName="IN" negated="true"><ConnectionPointIn><Connection refConnectionPointOutId="7"/></ConnectionPointIn></InputVariable>
                <InputVariable parameterName="PT"><ConnectionPointIn><Connection refConnectionPointOutId="3"/></ConnectionPointIn></InputVariable></InputVariables>
              <OutputVariables><OutputVariable parameterName="Q"><ConnectionPointOut connectionPointOutId="8"/></OutputVariable></OutputVariables></FbdObject>
            <FbdObject xsi:type="Block" typeName="FANCY_THING" instanceName="f" globalId="9"><OutputVariables><OutputVariable parameterName="Q"><ConnectionPointOut connectionPointOutId="9"/></OutputVariable></OutputVariables></FbdObject>
            <FbdObject xsi:type="Block" typeName="OR" globalId="10"><InputVariables>
                <InputVariable parameterName="IN1"><ConnectionPointIn><Connection refConnectionPointOutId="8"/></ConnectionPointIn></InputVariable>
                <InputVariable parameterName="IN2"><ConnectionPointIn><Connection refConnectionPointOutId="9"/></ConnectionPointIn></InputVariable>
                <InputVariable parameterName="IN3"><ConnectionPointIn><Connection refConnectionPointOutId="4"/></ConnectionPointIn></InputVariable></InputVariables>
              <OutputVariables><OutputVariable parameterName="OUT"><ConnectionPointOut connectionPointOutId="10"/></OutputVariable></OutputVariables></FbdObject>
            <FbdObject xsi:type="DataSink" identifier="Extract_Fan" globalId="11"><ConnectionPointIn><Connection refConnectionPointOutId="10"/></ConnectionPointIn></FbdObject>
            <FbdObject xsi:type="DataSink" identifier="Lamp" globalId="12"><ConnectionPointIn><Connection refConnectionPointOutId="10"/></ConnectionPointIn></FbdObject>
            <FbdObject xsi:type="DataSink" identifier="Room_temperature" globalId="13"/>
            <FbdObject xsi:type="Jump" globalId="14"/>
          </Network></BodyContent></MainBody></Program>
          <Program name="Other"><MainBody><BodyContent xsi:type="ST"/></MainBody></Program></GlobalNamespace></Types>
        </Project>
        """;

    [Fact]
    public void What_another_tool_drew_is_taken_over_and_the_rest_is_said()
    {
        Project project = KilnRoom.Project();
        LogicReading reading = LogicXml.Read(project, project.Find<Sequence>(KilnRoom.Sequence)!, Foreign);
        Sequence read = reading.Sequence;
        Block gt = read.Blocks.Single(b => b.Kind == BlockKind.Gt), ton = read.Blocks.Single(b => b.Kind == BlockKind.Ton), or = read.Blocks.Single(b => b.Kind == BlockKind.Or), not = read.Blocks.Single(b => b.Kind == BlockKind.Not);
        Assert.Equal((new PointSource(KilnRoom.Temperature), new ConstantSource(29.5)), (gt.Inputs["in1"], gt.Inputs["in2"]));
        Assert.Equal((90d, "Wait a little", new BlockSource(not.Id)), (ton.Numbers["pt"], ton.Label, ton.Inputs["in"]));
        Assert.Equal(new BlockSource(gt.Id), not.Inputs["in"]);
        Assert.Equal(["in1"], or.Inputs.Keys);
        OutputCommand command = Assert.Single(read.Commands);
        Assert.Equal((KilnRoom.FanCommand, new BlockSource(or.Id)), (command.PointId, command.Claims.Single().Source));
        Assert.Equal(
        [
            "Program ‘Other’: It is no function block diagram, and was left out.",
            "Block ‘FANCY_THING’ (f): There is no such block here. It was left out, and what it fed is open.",
            "‘Jump’: Such an object has no place in a sequence, and was left out.",
            "Input IN2 of ‘OR’: What it is connected to was left out, so it is open.",
            "‘Nobody’: Nothing near is called so; input IN3 of ‘OR’ is open. Connect it by hand.",
            "Output ‘Lamp’: Nothing near is called so; its claim was left out. Add the output, and connect it by hand.",
            "Output ‘Room_temperature’: It is a sensor, which cannot be commanded; its claim was left out.",
        ], reading.Notes.Select(n => $"{n.What}: {n.Why}"));
        // What came in is a sequence like any other.
        KilnRoom.Accept(project, read);
    }

    [Theory]
    [InlineData("", "This is no XML that can be read")]
    [InlineData("<Project", "This is no XML that can be read")]
    [InlineData("<!DOCTYPE a [<!ENTITY x \"y\">]><Project>&x;</Project>", "This is no XML that can be read")]
    [InlineData("<Library/>", "The file begins with ‘Library’, not with a Project")]
    [InlineData("<Project/>", "The file holds no program.")]
    [InlineData("<Project xmlns:xsi=\"http://www.w3.org/2001/XMLSchema-instance\"><BodyContent xsi:type=\"ST\"/></Project>", "The file holds no function block diagram")]
    public void What_is_no_diagram_is_refused_with_what_and_where(string xml, string says)
    {
        Project project = KilnRoom.Project();
        Assert.Contains(says, Assert.Throws<FormatException>(() => LogicXml.Read(project, project.Find<Sequence>(KilnRoom.Sequence)!, xml)).Message, StringComparison.Ordinal);
    }

    /// <summary>Files that are cut or changed anywhere are read or refused, never worse.</summary>
    [Fact]
    public void Broken_files_are_read_or_refused()
    {
        Project project = KilnRoom.Project();
        Sequence sequence = project.Find<Sequence>(KilnRoom.Sequence)!;
        var random = new Random(61131);
        foreach (string file in (string[])[Foreign, Xml(project, sequence)])
        {
            for (int round = 0; round < 150; round++)
            {
                char[] text = file.ToCharArray();
                for (int i = 0; i < 3; i++) text[random.Next(text.Length)] = "<>\"'&/=1aZ "[random.Next(11)];
                try
                {
                    LogicXml.Read(project, sequence, new string(text)[..random.Next(text.Length / 2, text.Length + 1)]);
                }
                catch (FormatException)
                {
                    // Refused, with a sentence.
                }
            }
        }
        Assert.Throws<FormatException>(() => LogicXml.Read(project, sequence, $"<Project>{new string(' ', LogicXml.MostCharacters)}</Project>"));
    }

    [Fact]
    public void It_is_in_the_name_space_of_the_standard_with_what_it_requires()
    {
        Project project = KilnRoom.Project();
        XElement root = XDocument.Parse(Xml(project, project.Find<Sequence>(KilnRoom.Sequence)!)).Root!;
        Assert.Equal("www.iec.ch/public/TC65SC65BWG7TF10", root.Name.NamespaceName);
        Assert.Equal(["FileHeader", "ContentHeader", "Types", "Instances"], root.Elements().Select(e => e.Name.LocalName));
        var outs = root.Descendants().Select(e => e.Attribute("connectionPointOutId")?.Value).OfType<string>().ToList();
        Assert.Equal(outs.Count, outs.Distinct().Count());
        Assert.All(root.Descendants().Select(e => e.Attribute("refConnectionPointOutId")?.Value).OfType<string>(), r => Assert.Contains(r, outs));
    }
}
