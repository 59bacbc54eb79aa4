using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Units;

namespace LoftyWren.Formats.Logic;

/// <summary>
/// A sequence as a complete program of IEC 61131-3: what it reads and commands as global variables, its blocks as functions and
/// function blocks, each of which is the standard's or is declared beside it. Every type is met exactly: numbers are REAL, states
/// and counts INT, lengths of time TIME where the standard's blocks have them, and what differs goes through a conversion.
/// </summary>
internal sealed class LogicProgram
{
    private readonly Dictionary<string, Pou> _declared = [];
    private readonly NameScope _types = new();
    private readonly Dictionary<(RecordId Point, int Priority), string> _claims = [];
    private readonly Dictionary<(RecordId Point, int Priority), string> _counting = [];
    private readonly Dictionary<Source, string> _ahead = [];

    public LogicProgram(Project project, Sequence sequence)
    {
        (Project, Sequence) = (project, sequence);
        Typing = Typing.Of(sequence, project);
        Identifiers = new Identifiers(project, sequence);
        foreach (OutputCommand command in sequence.Commands)
        {
            foreach (Claim claim in command.Claims)
            {
                string name = _claims[(command.PointId, claim.Priority)] = Identifiers.Scope.Fresh($"{Identifiers.Of(new PointSource(command.PointId))}_P{claim.Priority}");
                _counting[(command.PointId, claim.Priority)] = Identifiers.Scope.Fresh(Network.Counting(name));
            }
        }
        foreach (Source ahead in sequence.Sources().Select(s => s.Source).Where(s => s is ScheduleSource { Ahead: true }).Distinct()) _ahead[ahead] = Identifiers.Scope.Fresh(Network.Counting(Identifiers.Of(ahead)));
        Place = Typing.Order.Select((b, i) => (b.Id, i)).ToDictionary(x => x.Id, x => x.i);
        Network = new Network(this, sequence.Blocks, "", Outside, Identifiers.Scope);
        var claims = new List<string>();
        foreach (OutputCommand command in sequence.Commands)
        {
            foreach (Claim claim in command.Claims.OrderBy(c => c.Priority))
            {
                string label = string.IsNullOrWhiteSpace(claim.Label) ? "" : $" (* {NameScope.Comment(claim.Label)} *)", variable = ClaimName(command, claim);
                Value? value = claim.Source is null ? null : Network.Read(claim.Source, ClaimType(command), "", $"{command.PointId}@{claim.Priority}");
                if (value is { } given) claims.Add($"{variable} := {given.Text};{label}");
                claims.Add($"{CountingName(command, claim)} := {value?.Active ?? "FALSE"};{(value is null ? $" (* nothing is connected to it *){label}" : "")}");
            }
        }
        Claims = claims;
        var read = sequence.Sources().Select(s => s.Source).Where(s => s is PointSource or ScheduleSource).Distinct().ToList();
        Globals =
        [
            .. read.Select(s => new Variable(Identifiers.Of(s), TypeOf(s), null, About(s))),
            .. sequence.Commands.SelectMany(c => c.Claims.OrderBy(k => k.Priority).Select(k => new Variable(ClaimName(c, k), ClaimType(c), null, $"{Identifiers.Words(new PointSource(c.PointId))}, priority {k.Priority}"))),
        ];
        Counting =
        [
            .. _ahead.Select(a => new Variable(a.Value, "BOOL", null, $"whether {Identifiers.Words(a.Key)} is known")),
            .. sequence.Commands.SelectMany(c => c.Claims.OrderBy(k => k.Priority).Select(k => new Variable(CountingName(c, k), "BOOL", null, $"whether {ClaimName(c, k)} claims; else the next priority counts"))),
        ];
    }

    public Project Project { get; }

    public Sequence Sequence { get; }

    public Typing Typing { get; }

    public Identifiers Identifiers { get; }

    /// <summary>The place of each plain block in the order of calculation.</summary>
    public IReadOnlyDictionary<string, int> Place { get; }

    /// <summary>Its blocks.</summary>
    public Network Network { get; }

    /// <summary>The statements that claim its outputs.</summary>
    public IReadOnlyList<string> Claims { get; }

    /// <summary>What it reads and commands.</summary>
    public IReadOnlyList<Variable> Globals { get; }

    /// <summary>What tells beside them whether a claim counts, and a time until a schedule changes is known.</summary>
    public IReadOnlyList<Variable> Counting { get; }

    /// <summary>The functions and function blocks that it is made with, each before those that use it.</summary>
    public IReadOnlyList<Pou> Units => [.. _declared.Values];

    /// <summary>The program.</summary>
    public Pou Program => new("PROGRAM", Identifiers.Program,
    [
        new Section("VAR_EXTERNAL", [.. Globals.Concat(Counting).Select(g => g with { Comment = null })]), .. Network.Sections,
    ], [.. Network.Body, .. Claims], $"{Sequence.Name}: calculated every {Sequence.ScanSeconds.ToString(System.Globalization.CultureInfo.InvariantCulture)} s.");

    /// <summary>The variable of a claim.</summary>
    public string ClaimName(OutputCommand command, Claim claim) => _claims[(command.PointId, claim.Priority)];

    private string CountingName(OutputCommand command, Claim claim) => _counting[(command.PointId, claim.Priority)];

    /// <summary>The type that an output takes.</summary>
    public string ClaimType(OutputCommand command) => TypeOf(new PointSource(command.PointId));

    /// <summary>Declares a unit under a name made of words, or finds the one that is just like it.</summary>
    public string Declare(string words, Pou unit)
    {
        string key = (unit with { Name = "" }).Text();
        if (_declared.TryGetValue(key, out Pou? known)) return known.Name;
        string name = _types.FreshType(words);
        // A function gives its result under its own name.
        _declared[key] = unit with { Name = name, Body = [.. unit.Body.Select(l => l.Replace(Pou.Result, name, StringComparison.Ordinal))] };
        return name;
    }

    /// <summary>The functions through which a value goes to be of another type and unit, in order.</summary>
    public IEnumerable<string> Through(string from, string to, Conversion? conversion)
    {
        if (from != to)
        {
            if (from == "TIME") yield return Declare("seconds", new("FUNCTION", "", [new("VAR_INPUT", [new("IN", "TIME")])], [$"{Pou.Result} := TIME_TO_REAL(IN) / 1000.0;"], "A length of time in s; TIME_TO_REAL is taken to count in ms.", "REAL"));
            else yield return $"{from}_TO_{to}";
        }
        if (conversion is { } by)
            yield return Declare($"{by.From} to {by.To}", new("FUNCTION", "", [new("VAR_INPUT", [new("IN", "REAL")])], [$"{Pou.Result} := (IN * {Network.Signed(by.Factor)}) + {Network.Signed(by.Offset)};"], $"A number in {by.From} in {by.To}.", "REAL"));
    }

    /// <summary>The type of what a line of the design carries.</summary>
    public static string TypeOf(LineType type) => type.Binary ? "BOOL" : type.States is null ? "REAL" : "INT";

    /// <summary>The type of a point or a schedule.</summary>
    public string TypeOf(Source source) => source switch
    {
        PointSource p when Project.Find<Point>(p.PointId) is { } point => TypeOf(Typing.TypeOf(point)),
        ScheduleSource { Ahead: false } s => Project.Find<Schedule>(s.ScheduleId)?.Kind switch { PointKind.Binary => "BOOL", PointKind.Multistate => "INT", _ => "REAL" },
        _ => "REAL",
    };

    private Value? Outside(Source source) => source is PointSource or ScheduleSource ? new(Identifiers.Of(source), TypeOf(source), _ahead.GetValueOrDefault(source, "TRUE")) : null;

    private string About(Source source)
    {
        string unit = source switch { PointSource p => Project.Find<Point>(p.PointId)?.Unit, ScheduleSource { Ahead: true } => "s", ScheduleSource s => Project.Find<Schedule>(s.ScheduleId)?.Unit, _ => null } ?? "";
        return Identifiers.Words(source) + (unit.Length == 0 ? "" : $", {unit}");
    }
}
