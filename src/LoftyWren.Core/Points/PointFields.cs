using LoftyWren.Core.Fields;
using LoftyWren.Core.Names;
using LoftyWren.Core.Tags;

namespace LoftyWren.Core.Points;

/// <summary>
/// What a point says of itself, and what follows when one of it is written: another kind takes unit or states away, states
/// written for a number make it binary or multistate, a sensor has no fallback and a new command is off.
/// </summary>
internal static class PointFields
{
    private const FieldUses List = FieldUses.Import | FieldUses.Export;

    private static readonly Dictionary<string, string> KindWords = new()
    {
        ["analogue"] = "analog",
        ["a"] = "analog",
        ["number"] = "analog",
        ["digital"] = "binary",
        ["b"] = "binary",
        ["d"] = "binary",
        ["bool"] = "binary",
        ["multi-state"] = "multistate",
        ["enum"] = "multistate",
        ["m"] = "multistate",
    };

    private static readonly Dictionary<string, string> RoleWords = new()
    {
        ["input"] = "sensor",
        ["in"] = "sensor",
        ["measurement"] = "sensor",
        ["status"] = "sensor",
        ["output"] = "command",
        ["out"] = "command",
        ["cmd"] = "command",
        ["set point"] = "setpoint",
        ["sp"] = "setpoint",
        ["virtual"] = "value",
        ["calculated"] = "value",
    };

    /// <summary>A point of which nothing is said.</summary>
    public static Point Blank { get; } = new() { Id = new("blank"), Name = "", OwnerId = new("blank"), Kind = PointKind.Analog, Role = PointRole.Sensor };

    /// <summary>Analog, binary or multistate.</summary>
    public static Field Kind { get; } = FieldOf<Point>.Choice<PointKind>("kind", "Kind", p => p.Kind, As, FieldUses.Grid | List | FieldUses.Condition | FieldUses.Group, KindWords, ["point kind"], "kind", "kind of point").Told("Whether it is a number, one of two states or one of several.");

    public static IReadOnlyList<Field> All { get; } =
    [
        new Field<Point>("type", "Type")
        {
            Uses = FieldUses.Import,
            Column = "type",
            Headers = ["io type", "i o type", "i o", "io", "point type", "signal", "signal type"],
            Hint = "AI, DO …",
            Says = (_, _) => null,
            Reads = (_, point, text) => PointTypes.Read(text) is var (kind, role) ? FieldReading.Of(As(point, kind) with { Role = role }) : FieldReading.Refused($"‘{text}’ is not a type of point. Use AI, AO, AV, DI, DO, BV, MI, MO, MV or SP; or say below what it stands for."),
        },
        Kind,
        FieldOf<Point>.Choice<PointRole>("role", "Role", p => p.Role, (p, role) => p with { Role = role }, FieldUses.Grid | List | FieldUses.Condition | FieldUses.Group, RoleWords, ["function"], "role", "role").Told("Whether it is measured, commanded, set by people or worked out."),
        new Field<Point>("unit", "Unit")
        {
            Uses = List | FieldUses.Condition | FieldUses.Group,
            Column = "unit",
            Headers = ["units", "uom", "eng unit", "engineering unit", "engineering units"],
            Says = (_, point) => point.Unit,
            // Lists write a unit, a dash or states into one column for points of all kinds; only a number has a unit.
            Reads = (_, point, text) => text is "-" or "–" || point.Kind != PointKind.Analog ? FieldReading.Of(point)
                : text.Length == 0 ? FieldReading.Of(point with { Unit = null })
                : Units.Unit.Read(text) is { } unit ? FieldReading.Of(point with { Unit = unit.Symbol })
                : FieldReading.Refused($"‘{text}’ is not a known unit. Use one of: {string.Join(", ", Units.Unit.All.Select(u => u.Symbol))}; or say below what it stands for."),
        },
        new Field<Point>("states", "States")
        {
            Uses = List,
            Column = "states",
            Headers = ["state texts", "state text"],
            // States make a point binary or multistate that nothing else says a kind of; a kind or type beside them has the last word.
            IsFirst = true,
            Says = (_, point) => string.Join(" · ", point.StateTexts),
            Reads = (_, point, text) => FieldReading.Of(point is { Kind: PointKind.Analog, Unit: null, Low: null, High: null } or { Kind: not PointKind.Analog } ? WithStates(point, text) : point),
        },
        new Field<Point>("unitOrStates", "Unit or states")
        {
            Uses = FieldUses.Grid | FieldUses.Import,
            Column = "unitOrStates",
            Says = (_, point) => point.Kind == PointKind.Analog ? point.Unit : string.Join(" · ", point.StateTexts),
            Reads = (_, point, text) =>
            {
                if (point.Kind == PointKind.Analog && text.Length == 0) return FieldReading.Of(point with { Unit = null });
                if (point.Kind == PointKind.Analog && Units.Unit.Read(text) is { } unit) return FieldReading.Of(point with { Unit = unit.Symbol });
                if (point.Kind == PointKind.Analog && States(text).Length < 2) return FieldReading.Refused($"‘{text}’ is not a known unit. Use one of: {string.Join(", ", Units.Unit.All.Select(u => u.Symbol))}; or states with · between them, such as off · on.");
                return FieldReading.Of(WithStates(point, text));
            },
        }.Told("The unit of a number, or the states from the first to the last with · between them."),
        FieldOf<Point>.Number("low", "Low", null, p => p.Low, (p, v) => p with { Low = v }, FieldUses.Grid | List, ["min", "minimum", "low limit", "range low"], "low", units: UnitOf, unitBeside: true).Told("The least value that it may have; it lies below the high one."),
        FieldOf<Point>.Number("high", "High", null, p => p.High, (p, v) => p with { High = v }, FieldUses.Grid | List, ["max", "maximum", "high limit", "range high"], "high", units: UnitOf, unitBeside: true).Told("The greatest value that it may have."),
        new Field<Point>("fallback", "Fallback")
        {
            Uses = FieldUses.Grid | List,
            Column = "fallback",
            Headers = ["default", "relinquish default", "initial value"],
            IsNumber = true,
            Units = UnitOf,
            IsUnitBeside = true,
            Says = (_, point) => point.Fallback is not { } fallback ? null : point.Kind == PointKind.Analog ? FieldTexts.Say(fallback) : ValueText.Of(fallback, point.Kind, null, point.StateTexts),
            Writes = (_, point) => FieldTexts.Say(point.Fallback),
            Sorts = point => point.Fallback,
            Reads = (_, point, text) =>
            {
                // A list has one column for all: what a sensor says there is nothing.
                if (text.Length == 0 || point.Role == PointRole.Sensor) return FieldReading.Of(point with { Fallback = null });
                int state = point.StateTexts.ToList().FindIndex(s => s.Equals(text, StringComparison.OrdinalIgnoreCase));
                if (state >= 0) return FieldReading.Of(point with { Fallback = point.Kind == PointKind.Binary ? state : state + 1 });
                if (FieldTexts.Number(FieldTexts.Bare(text, point.Unit), out double value) is { } refusal) return FieldReading.Refused(point.Kind == PointKind.Analog ? refusal : $"‘{text}’ is none of the states {string.Join(", ", point.StateTexts)}.");
                return FieldReading.Of(point with { Fallback = value });
            },
        }.Told("What it takes when nothing commands it."),
        Least("leastOn", "Least on", "least time on", p => p.LeastOn, (p, v) => p with { LeastOn = v }, "min on", "minimum on time").Told("For how long it stays on at least once it is on, whoever commands it: it then claims it itself, at priority 6.", 0, Point.LongestLeast),
        Least("leastOff", "Least off", "least time off", p => p.LeastOff, (p, v) => p with { LeastOff = v }, "min off", "minimum off time").Told("For how long it stays off at least once it is off, whoever commands it.", 0, Point.LongestLeast),
        FieldOf<Point>.Link<Point>("setpointId", "Compared with", "setpoint", p => p.SetpointId, (p, v) => p with { SetpointId = v }, FieldUses.Grid | List, ["setpoint"], "comparedWith", far: false).Told("The setpoint that this value should keep to."),
        FieldOf<Point>.Text("description", "Description", p => p.Description, (p, v) => p with { Description = v }, FieldUses.Grid | FieldUses.Form | List | FieldUses.Replace | FieldUses.Condition | FieldUses.Spelled, ["remarks", "remark", "notes", "comment", "text"], "description", "what a technician should know").Told("What a technician should know about it."),
        TagFields.Of<Point>("tags"),
        FieldOf<Point>.Shown("networkName", "Network name", (project, point) => Naming.Of(project)?.NetworkName(project, point), "Network names follow from the naming convention. Change a name in it, or the convention (Plan › Names).", FieldUses.Grid),
        FieldOf<Point>.Shown("source", "Source", (project, point) => project.BindingOf(point.Id)?.Say(project), "The source of a point is chosen on the panel of its controller.", FieldUses.Grid, hint: "not wired"),
        FieldOf<Point>.Shown("controller", "Controller", (project, point) => project.BindingOf(point.Id) is { } binding ? project.Find(binding.HostId)?.Name : null, "The controller follows from the point's source.", FieldUses.Group),
        FieldOf<Point>.Shown("ownerId", "Owner", (project, point) => project.Find(point.OwnerId)?.Name, "Move the point on the plan.", FieldUses.None, "belongs to"),
    ];

    /// <summary>A least time of a binary command; others have none.</summary>
    private static Field<Point> Least(string key, string label, string words, Func<Point, double?> get, Func<Point, double?, Point> set, params string[] headers) => new(key, label)
    {
        Uses = FieldUses.Form | List,
        Column = key,
        Headers = headers,
        Unit = "s",
        IsNumber = true,
        IsSpan = true,
        Words = words,
        Only = p => p is { Kind: PointKind.Binary, Role: PointRole.Command },
        Says = (_, point) => FieldTexts.Say(get(point)),
        Sorts = point => get(point),
        Reads = (_, point, text) => text.Length == 0 ? FieldReading.Of(set(point, null)) : FieldTexts.Seconds(text, out double value) is { } refusal ? FieldReading.Refused(refusal) : FieldReading.Of(set(point, value == 0 ? null : value)),
    };

    private static string? UnitOf(Projects.Project project, Point point) => point.Unit;

    /// <summary>The point as another kind: what only the old kind has goes.</summary>
    public static Point As(Point point, PointKind kind) => kind == point.Kind ? point : point with
    {
        Kind = kind,
        Unit = null,
        Low = null,
        High = null,
        Fallback = null,
        LeastOn = null,
        LeastOff = null,
        StateTexts = kind == PointKind.Analog ? [] : kind == PointKind.Binary && point.StateTexts.Count == 0 ? ["off", "on"] : point.StateTexts,
    };

    /// <summary>What follows from other fields once all of them are written.</summary>
    public static Point Settle(Point? before, Point now)
    {
        if (now.Role != PointRole.Command && (now.LeastOn ?? now.LeastOff) is not null) now = now with { LeastOn = null, LeastOff = null };
        if (now.Role == PointRole.Sensor) return now.Fallback is null ? now : now with { Fallback = null };
        bool isNewCommand = now.Role == PointRole.Command && (before is null || before.Role != now.Role || before.Kind != now.Kind);
        return isNewCommand && now.Fallback is null && now.Kind != PointKind.Multistate ? now with { Fallback = now.IsInRange(0) ? 0 : now.Low } : now;
    }

    private static Point WithStates(Point point, string text)
    {
        string[] states = States(text);
        Point of = point.Kind != PointKind.Analog || states.Length < 2 ? point : As(point, states.Length == 2 ? PointKind.Binary : PointKind.Multistate);
        return of.Kind == PointKind.Analog ? of : of with { StateTexts = states };
    }

    private static string[] States(string text) => text.Split(text.Contains('·') ? ['·'] : ['/', '|', ';'], StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
}
