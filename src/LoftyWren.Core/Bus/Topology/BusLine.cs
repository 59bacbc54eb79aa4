using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Topology;

/// <summary>A two-wire line: 1.2 is the second line of the first area, 1.0 the main line of that area, 0.0 the backbone.</summary>
public sealed record BusLine : ProjectRecord
{
    /// <summary>The most devices of a line without a repeater, and the longest its cable may be, m (ISO 22510).</summary>
    public const int MostDevices = 64, MostLength = 1000;

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<BusLine> AsKind { get; } = new("busLine")
    {
        Nouns = [new("line", "lines")],
        Checks = OnLine,
        Fields =
        [
            FieldOf<BusLine>.Whole("area", "Area", l => l.Area, (l, v) => l with { Area = v }, FieldUses.Grid | FieldUses.Form).Told("The first part of its devices' addresses.", 0, IndividualAddress.MostArea),
            FieldOf<BusLine>.Whole("line", "Line", l => l.Line, (l, v) => l with { Line = v }, FieldUses.Grid | FieldUses.Form).Told("The second part; 0 is the main line of its area.", 0, IndividualAddress.MostLine),
            FieldOf<BusLine>.Number("lengthMetres", "Cable", "m", l => l.LengthMetres, (l, v) => l with { LengthMetres = v ?? 0 }, FieldUses.Grid | FieldUses.Form).Told("All its cable together.", 0, 10_000),
        ],
    };

    /// <summary>Its area, 0 to 15.</summary>
    public required int Area { get; init; }

    /// <summary>Its number within the area, 0 to 15; 0 is the main line.</summary>
    public required int Line { get; init; }

    /// <summary>All its cable together, m.</summary>
    public double LengthMetres { get; init; }

    /// <summary>As it is written: 1.2.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public string Written => $"{Area}.{Line}";

    /// <inheritdoc/>
    public override RecordId? ParentId => null;

    /// <inheritdoc/>
    public override bool IsAlikeFromOutside(ProjectRecord before) => before is BusLine line && RecordJson.Same(this with { LengthMetres = line.LengthMetres, Name = line.Name }, line);

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey(Key(Area, Line), "line", $"Line {Area}.{Line} is there already: ‘{{0}}’. Choose another number.")];

    private static string Key(int area, int line) => $"bus-line|{area}.{line}";

    /// <summary>The line of an area and number, or null.</summary>
    public static BusLine? At(Project project, int area, int line) => project.Find<BusLine>(project.Holder(Key(area, line)));

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (Area is < 0 or > IndividualAddress.MostArea) yield return new Refusal(Id, "area", $"There are areas 0 to {IndividualAddress.MostArea}, not {Area}.");
        if (Line is < 0 or > IndividualAddress.MostLine) yield return new Refusal(Id, "line", $"There are lines 0 to {IndividualAddress.MostLine}, not {Line}.");
        if (!(LengthMetres is >= 0 and <= 10_000)) yield return new Refusal(Id, "lengthMetres", $"A line of {LengthMetres} m cannot be; 0 to 10 000 is believed.");
    }

    /// <summary>Devices on a line.</summary>
    public static SumSort Count { get; } = new("devices on it", "devices");

    /// <summary>What they draw, mA.</summary>
    public static SumSort Drawn { get; } = new("drawn from it", "mA");

    /// <summary>What supplies give it, mA.</summary>
    public static SumSort Given { get; } = new("given to it", "mA");

    /// <summary>What its devices say again and again though nothing happens, telegrams in 1000 s.</summary>
    public static SumSort Again { get; } = new("said again on it", "telegrams/1000 s");

    /// <summary>How many telegrams of one octet a line carries in a second, one after the other with their acknowledgements.</summary>
    public static double MostTelegrams { get; } = 1e6 / FrameTime.Microseconds(FrameTime.Octets(8));

    /// <summary>The share of that which may be said again and again: the rest is for what happens.</summary>
    public const double AgainShare = 0.25;

    /// <summary>
    /// How many telegrams a second a line carries though nothing happens: all that is repeated to the groups that somebody on it
    /// takes part in, whoever sends it on whichever line, controllers included. A coupler that lets everything through adds what
    /// is repeated on all other lines, one that lets no group through keeps that off.
    /// </summary>
    public static double AgainOn(Project project, BusLine line)
    {
        string? mode = line.Line == 0 ? null : project.Referrers<BusDevice>(line.Id).Where(d => d.DescriptionIn(project)?.Role == LineRole.Coupler).Select(d => d.ValuesIn(project)!).Select(v => v.Form.ParameterAt(-1, CouplerSettings.GroupsKey) is >= 0 and var at ? v.ValueOf(at) : null).FirstOrDefault();
        if (mode == CouplerSettings.None) return project.Sum(line.Id, Again) / 1000.0;
        if (mode == CouplerSettings.All) return project.All<BusLine>().Sum(l => project.Sum(l.Id, Again)) / 1000.0;
        var groups = new HashSet<RecordId>(GroupsOn(project, line));
        if (line.Line == 0)
        {
            // A main line carries what crosses from one line of its area to another.
            var below = new HashSet<RecordId>();
            foreach (BusLine other in project.All<BusLine>().Where(l => l.Area == line.Area && l.Line != 0))
            {
                foreach (RecordId group in GroupsOn(project, other).Distinct())
                {
                    if (!below.Add(group)) groups.Add(group);
                }
            }
        }
        return groups.Sum(g => project.Sum(g, GroupAddress.Again)) / 1e6;
    }

    /// <summary>The groups that devices and controllers on a line take part in; one may come several times.</summary>
    private static IEnumerable<RecordId> GroupsOn(Project project, BusLine line) =>
        project.Referrers<BusDevice>(line.Id).Where(d => d.LineId == line.Id).SelectMany(d => d.Joins).SelectMany(j => j.Groups)
            .Concat(project.Referrers<Controller>(line.Id).SelectMany(c => project.Referrers<BusBinding>(c.Id)).Select(b => b.GroupId));

    private static IEnumerable<Finding> OnLine(Project project, BusLine line)
    {
        long count = project.Sum(line.Id, Count), drawn = project.Sum(line.Id, Drawn), given = project.Sum(line.Id, Given);
        if (count == 0) yield break;
        if (count > MostDevices) yield return new Finding($"line-devices|{line.Id}", "line-devices", Severity.Medium, line.Id, $"Line {line.Written} has {count} devices.", $"A line carries {MostDevices} devices without a repeater. Move some to another line.");
        if (given == 0) yield return new Finding($"line-supply|{line.Id}", "line-supply", Severity.High, line.Id, $"Nothing feeds line {line.Written}.", $"Its devices draw {drawn} mA. Put a power supply on it.");
        else if (drawn > given) yield return new Finding($"line-current|{line.Id}", "line-current", Severity.High, line.Id, $"Line {line.Written} is fed too little.", $"Its devices draw {drawn} mA and its supply gives {given} mA. Take a larger supply, or move devices to another line.");
        double again = AgainOn(project, line);
        if (again > MostTelegrams * AgainShare) yield return new Finding($"line-again|{line.Id}", "line-again", Severity.Medium, line.Id, $"Line {line.Written} is told {again:0.#} telegrams a second though nothing happens.", $"It carries {MostTelegrams:0} a second, and a quarter of that is enough for what is only repeated, what couplers let in from other lines included. Let states and measured values be said again less often.");
        if (line.LengthMetres > MostLength) yield return new Finding($"line-length|{line.Id}", "line-length", Severity.Medium, line.Id, $"Line {line.Written} is {line.LengthMetres:0} m long.", $"A line has at most {MostLength} m of cable; beyond it telegrams collide unheard. Divide it.");
    }
}
