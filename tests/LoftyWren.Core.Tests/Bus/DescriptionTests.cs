using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Records;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tests.Bus;

public sealed class DescriptionTests
{
    private static List<string> Errors(string devices) => [.. DescriptionFile.Parse("{\n  \"format\": \"lofty-wren-bus-devices-1\",\n  \"devices\": [\n" + devices + "\n  ]\n}\n").Errors.Select(e => e.ToString())];

    private static DeviceValues Values(string id, params (string Path, string Value)[] set) => DeviceValues.Of(DescriptionShelf.Shipped.Single(d => d.Id == id).Form, set.ToDictionary(s => s.Path, s => s.Value));

    [Fact]
    public void What_ships_is_well_and_is_at_least_fourteen_devices()
    {
        Assert.True(DescriptionShelf.Shipped.Count >= 14);
        Assert.All(DescriptionShelf.Shipped, d => Assert.Empty(DescriptionFile.Check(d)));
        // Every behaviour is on some device, and every setting and object of it on some page.
        foreach (BehaviourKind kind in BehaviourKinds.All)
        {
            ChannelDescription[] channels = [.. DescriptionShelf.Shipped.SelectMany(d => d.Channels).Where(c => c.Behaviour == kind.Key)];
            Assert.NotEmpty(channels);
            string[] shown = [.. DescriptionShelf.Shipped.SelectMany(d => d.Pages.Concat(d.Channels.Where(c => c.Behaviour == kind.Key).SelectMany(c => c.Pages))).SelectMany(p => p.Parameters)];
            Assert.Empty(kind.Settings.Select(s => s.Key).Except(shown));
            Assert.Empty(kind.Objects.Select(o => o.Key).Except(channels.SelectMany(c => c.Objects).Select(o => o.Key)));
        }
    }

    [Fact]
    public void A_description_says_the_same_once_it_was_written_and_read()
    {
        foreach (DeviceDescription d in DescriptionShelf.Shipped)
        {
            string json = System.Text.Json.JsonSerializer.Serialize(d, RecordJson.Options);
            Assert.Equal(d, System.Text.Json.JsonSerializer.Deserialize<DeviceDescription>(json, RecordJson.Options));
        }
    }

    [Theory]
    [InlineData("a", "y", true)]
    [InlineData("not a", "y", false)]
    [InlineData("n >= 2 and n < 4", "3", true)]
    [InlineData("n>=2 and n<3", "3", false)]
    [InlineData("c in red, blue", "blue", true)]
    [InlineData("c != red and (a or n = 7)", "blue", false)]
    [InlineData("c != red and (a or n = 3)", "blue", true)]
    [InlineData("not (c = blue and n > 2)", "blue", false)]
    public void Conditions_hold_or_not(string text, string with, bool holds)
    {
        // a = yes for the first two, no for the others; n = 3; c = blue.
        var scope = new Scope { ["a"] = with == "y" ? "yes" : "no", ["n"] = "3", ["c"] = "blue" };
        string[] names = [.. scope.Keys];
        Condition bound = Condition.Parse(text).Bound(a => a with { At = Array.IndexOf(names, a.Name) });
        Assert.Equal(holds, bound.Holds(new Named(scope, names)));
    }

    private sealed class Scope : Dictionary<string, string>;

    private sealed class Named(Scope scope, string[] names) : IConditionScope
    {
        public string ValueOf(int parameter) => scope[names[parameter]];
    }

    [Theory]
    [InlineData("a = ", 5, "A value is missing here.")]
    [InlineData("a and", 6, "The key of a parameter is missing here.")]
    [InlineData("(a or b", 8, "The parenthesis opened at character 1 is not closed.")]
    [InlineData("a > red", 4, "Behind ‘>’ stands a number, not ‘red’.")]
    [InlineData("a b", 3, "‘b’ is left over here.")]
    public void A_condition_that_cannot_be_read_is_refused_at_its_character(string text, int at, string says)
    {
        SyntaxException wrong = Assert.Throws<SyntaxException>(() => Condition.Parse(text));
        Assert.Equal((at, says), (wrong.At + 1, wrong.Message));
    }

    [Fact]
    public void What_is_hidden_says_why_and_what_to_set()
    {
        DeviceValues values = Values("switch-12");
        ParameterForm cycle = values.Form.Find("output3.cycle")!;
        Assert.False(values.IsThere(cycle));
        var why = values.WhyHidden(cycle.Is.Label!, cycle.When)!.Value;
        Assert.Equal("‘Cycle’ is there when ‘Function’ is ‘Thermal valve drive’ and ‘Demand’ is ‘Percentage, by pulse width’.", why.Sentence);
        Unmet unmet = Assert.Single(why.Needs);
        Assert.Equal(("output3.function", "Output C · Function", "Switching", "valve"), (unmet.Path, unmet.Label, unmet.Now, unmet.Proposal));
        Assert.Null(Values("switch-12", ("output3.function", "valve")).WhyHidden("Cycle", cycle.When));
    }

    [Fact]
    public void What_is_hidden_keeps_its_value_and_is_told_as_idle()
    {
        DeviceValues values = Values("switch-4", ("output1.staircase", "90"), ("output1.function", "delay"), ("output2.function", "staircase"), ("output2.staircase", "90"));
        Assert.Equal(["output1.staircase"], values.Idle.Select(p => p.Path));
        Assert.Equal("90", values.SetOf(values.Form.Find("output1.staircase")!));
        // Not in force, it counts with its default.
        Assert.Equal("180", values.ValueOf(values.Form.Find("output1.staircase")!.At));
        Assert.Equal("90", values.ValueOf(values.Form.Find("output2.staircase")!.At));
        Assert.Equal(["output1.function", "output2.function", "output2.staircase"], values.Differing.Select(p => p.Path));
    }

    [Fact]
    public void Objects_come_and_go_with_what_is_set()
    {
        string[] There(params (string, string)[] set) => [.. Values("switch-4", set) is var v ? v.Form.Objects.Where(o => v.Form.Channels[o.Channel].Key == "output1" && v.IsThere(o)).Select(o => $"{o.Number} {o.Path}") : []];
        Assert.Equal(["10 output1.switch", "12 output1.state"], There());
        Assert.Equal(["11 output1.demand", "12 output1.state", "13 output1.demandState", "14 output1.demandFault", "15 output1.lockIt"], There(("output1.function", "valve"), ("output1.lock", "yes")));
        Assert.Empty(There(("output1.function", "disabled")));
        Assert.False(Values("switch-4", ("output1.function", "disabled")).IsInUse(Values("switch-4").Form.ChannelAt("output1")));
    }

    [Theory]
    [InlineData("output1.staircase", "5 min", "300", null)]
    [InlineData("output1.staircase", "1 h 30 min", "5400", null)]
    [InlineData("output1.staircase", "0.5 s", null, "‘Staircase time’ is from 1 s to 1 d, not 500 ms.")]
    [InlineData("output1.valveEmergency", "30 %", "30", null)]
    [InlineData("output1.valveEmergency", "much", null, "‘much’")]
    [InlineData("output1.addsMost", "2.5", null, "‘Adds at most’ goes in steps of 1 times from 1 times; 2.5 times is between two.")]
    [InlineData("output1.function", "Staircase", "staircase", null)]
    [InlineData("output1.function", "stairs", null, "‘stairs’ is no choice of ‘Function’. There are Switching, On and off delay, Staircase, Pulse with run-on, Thermal valve drive, Disabled.")]
    [InlineData("output1.lock", "on", "yes", null)]
    public void Values_are_read_as_people_write_them(string path, string text, string? value, string? refusal)
    {
        var read = Values("switch-4").Form.Find(path)!.Is.Read(text);
        Assert.Equal(value, read.Value);
        if (refusal is not null) Assert.Contains(refusal, read.Refusal, StringComparison.Ordinal);
    }

    [Fact]
    public void Errors_of_a_file_name_their_line()
    {
        const string head = "    { \"id\": \"x\", \"name\": \"X\", \"revision\": 1, \"widthMillimetres\": 36, \"busMilliamps\": 10,\n";
        Assert.Equal(["line 5: Page ‘P’ shows ‘nope’, which neither the device nor what its channels do declares."], Errors(head + "      \"pages\": [{ \"key\": \"p\", \"title\": \"P\", \"parameters\": [\"nope\"] }] }"));
        Assert.Equal(["line 6: There is no behaviour ‘flying’. There are device, switching, dimming, blind, presence, button, binaryInput, analogInput, fanCoil, roomControl, weather, function."],
            Errors(head + "      \"channels\": [\n        { \"key\": \"o\", \"title\": \"O\", \"count\": 1, \"behaviour\": \"flying\" }] }"));
        Assert.Contains("line 6: The condition ‘a and’ cannot be read at character 6: The key of a parameter is missing here.", Errors(head + "      \"pages\": [{ \"key\": \"p\", \"title\": \"P\", \"parameters\": [\n \"a\"] }], \"parameters\": [{ \"key\": \"a\", \"label\": \"A\", \"sort\": \"yesNo\", \"when\": \"a and\" }] }"));
        Assert.Contains("hangs on itself", string.Concat(Errors(head + "      \"pages\": [{ \"key\": \"p\", \"title\": \"P\", \"parameters\": [\"a\", \"b\"] }], \"parameters\": [{ \"key\": \"a\", \"label\": \"A\", \"sort\": \"yesNo\", \"when\": \"b\" }, { \"key\": \"b\", \"label\": \"B\", \"sort\": \"yesNo\", \"when\": \"a\" }] }")));
        Assert.Contains("line 4: There is no field of that name", string.Concat(Errors("    { \"id\": \"x\", \"colour\": 1 }")));
        Assert.Contains("The default of ‘a’ cannot be", string.Concat(Errors(head + "      \"pages\": [{ \"key\": \"p\", \"title\": \"P\", \"parameters\": [\"a\"] }], \"parameters\": [{ \"key\": \"a\", \"label\": \"A\", \"sort\": \"number\", \"least\": 1, \"most\": 5, \"default\": \"9\" }] }")));
        Assert.Contains("Two objects have the number 1", string.Concat(Errors(head + "      \"channels\": [{ \"key\": \"o\", \"title\": \"O\", \"count\": 2, \"behaviour\": \"switching\", \"firstObject\": 1, \"objectStep\": 0, \"objects\": [{ \"key\": \"switch\", \"number\": 0 }] }] }")));
        Assert.Contains("lofty-wren-bus-devices-1", DescriptionFile.Schema());
    }

    /// <summary>A law: whatever is set, valid or not, everything in force is valid, and what is there hangs only on what is in force.</summary>
    [Fact]
    public void Whatever_is_set_what_is_in_force_is_valid()
    {
        var chance = new Random(14);
        foreach (DeviceDescription d in DescriptionShelf.Shipped)
        {
            for (int n = 0; n < 40; n++)
            {
                var set = new Dictionary<string, string>();
                foreach (ParameterForm p in d.Form.Parameters)
                {
                    if (chance.Next(4) > 0) continue;
                    set[p.Path] = chance.Next(12) == 0 ? "no such thing" : p.Is.Sort switch
                    {
                        ParameterSort.Choice => p.Is.Choices![chance.Next(p.Is.Choices.Count)].Key,
                        ParameterSort.YesNo => chance.Next(2) == 0 ? "yes" : "no",
                        ParameterSort.Text => "t",
                        _ => Parameters.Write(p.Is.Step is { } step ? p.Is.Least!.Value + (step * chance.Next((int)Math.Min(1000, (p.Is.Most!.Value - p.Is.Least.Value) / step) + 1)) : p.Is.Least!.Value + (chance.NextDouble() * (p.Is.Most!.Value - p.Is.Least.Value))),
                    };
                }
                DeviceValues values = DeviceValues.Of(d.Form, set);
                Assert.All(d.Form.Parameters, p => Assert.Null(p.Is.Read(values.ValueOf(p.At)).Refusal));
                Assert.All(d.Form.Parameters, p => Assert.Equal(p.When?.Holds(values) ?? true, values.IsThere(p)));
                Assert.All(d.Form.Parameters.Where(p => !values.IsThere(p)), p => Assert.Equal(p.Is.Begins, values.ValueOf(p.At)));
            }
        }
    }
}
