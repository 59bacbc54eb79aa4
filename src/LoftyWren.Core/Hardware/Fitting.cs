using System.Text.Json.Serialization;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;

namespace LoftyWren.Core.Hardware;

/// <summary>Where a point has its source: on a terminal of a controller, or as a value in its memory.</summary>
public sealed record Fitting : PointBinding
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Fitting> AsKind { get; } = new("fitting")
    {
        Nouns = [new("terminal", "terminals")],
        RunsInImage = true,
        IsSearched = false,
        IsSpelled = false,
        Fields =
        [
            FieldOf<Fitting>.Number("low", "Low", null, f => f.Low, (f, v) => f with { Low = v ?? 0 }, FieldUses.Form, units: (project, f) => project.Find<Point>(f.PointId)?.Unit).Told("What the point reads at the low end of its electrical signal."),
            FieldOf<Fitting>.Number("high", "High", null, f => f.High, (f, v) => f with { High = v ?? 0 }, FieldUses.Form, units: (project, f) => project.Find<Point>(f.PointId)?.Unit).Told("What the point reads at the high end of its electrical signal."),
            FieldOf<Fitting>.Number("correction", "Correction", null, f => f.Correction, (f, v) => f with { Correction = v ?? 0 }, FieldUses.Form, units: (project, f) => Units.Unit.Find(project.Find<Point>(f.PointId)?.Unit)?.Difference.Symbol).Told("What is added to the reading, as found by measuring beside the sensor.", -1000, 1000),
        ],
    };

    /// <summary>The terminal name that stands for the controller's memory.</summary>
    public const string MemoryTerminal = "value";

    /// <summary>The controller.</summary>
    public required RecordId ControllerId { get; init; }

    /// <summary>The terminal, such as UI3, or <see cref="MemoryTerminal"/>.</summary>
    public required string Terminal { get; init; }

    /// <summary>What the terminal carries.</summary>
    public required Signal Signal { get; init; }

    /// <summary>The point's value at 0 V or 4 mA, in its unit.</summary>
    public double Low { get; init; }

    /// <summary>The point's value at 10 V or 20 mA, in its unit.</summary>
    public double High { get; init; } = 100;

    /// <summary>Added to what is measured; a difference in the point's unit.</summary>
    public double Correction { get; init; }

    /// <summary>Turns a contact or relay round: closed means the first state.</summary>
    public bool Inverted { get; init; }

    /// <inheritdoc/>
    [JsonIgnore]
    public override RecordId HostId => ControllerId;

    /// <inheritdoc/>
    [JsonIgnore]
    public override string Where => Terminal;

    /// <inheritdoc/>
    [JsonIgnore]
    public override bool IsInMemory => Terminal == MemoryTerminal;

    /// <inheritdoc/>
    public override RecordId? ParentId => ControllerId;

    /// <inheritdoc/>
    public override string Called(Func<RecordId, ProjectRecord?> find) => find(PointId)?.Name ?? Name;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId controller = map.Owner(On, ControllerId), point = map.Owner(OfPoint, PointId);
        return controller == ControllerId && point == PointId ? this : this with { ControllerId = controller, PointId = point };
    }

    private static readonly ReferenceSort On = ReferenceSort.Owner<Controller>("on", "controllerId", "controller"), OfPoint = ReferenceSort.Owner<Point>("of", "pointId", "point");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys()
    {
        foreach (UniqueKey key in base.UniqueKeys()) yield return key;
        if (Terminal != MemoryTerminal)
            yield return new UniqueKey($"terminal|{ControllerId}|{Terminal}", "terminal", $"{Terminal} is taken by ‘{{0}}’. Choose a free terminal, or take that point off first.");
    }

    /// <inheritdoc/>
    public override IEnumerable<Share> Shares() => IsInMemory ? [new Share(ControllerId, ControllerMemory.ValueCount, 1)] : [];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        // Without both there is nothing more to ask; that they are missing is said of every reference alike.
        if (project.Find(ControllerId) is not Controller controller || ControllerModel.Find(controller.ModelId) is not { } model || project.Find(PointId) is not Point point) yield break;
        if (Name != Terminal) yield return new Refusal(Id, "name", $"The name of a fitting is its terminal, ‘{Terminal}’.");
        if (Terminal == MemoryTerminal)
        {
            if (Signal != Signal.Memory) yield return new Refusal(Id, "signal", "A value in memory carries no signal.");
            if (point.Role == PointRole.Sensor) yield return new Refusal(Id, "terminal", $"‘{point.Name}’ is a sensor; it needs a terminal that measures, not a value in memory.");
            if (ControllerMemory.Of(project, controller) is { ValuesOver: { } over }) yield return new Refusal(Id, "terminal", over);
            yield break;
        }
        if (project.Referrers<Trends.TrendLog>(point.Id).Any() && ControllerMemory.Of(project, controller) is { SamplesOver: { } full }) yield return new Refusal(Id, "terminal", full);
        if (model.GroupOf(Terminal) is not { } group)
        {
            yield return new Refusal(Id, "terminal", $"{controller.Name} has no terminal ‘{Terminal}’. It has {string.Join(", ", model.Groups.Select(g => $"{g.Prefix}1–{g.Prefix}{g.Count}"))}.");
            yield break;
        }
        if (Why(point, group, Terminal) is { } reason) yield return new Refusal(Id, "terminal", reason);
        else if (!SignalsFor(point).Contains(Signal) || !group.Signals.Contains(Signal))
            yield return new Refusal(Id, "signal", $"{Terminal} cannot carry {SignalConversion.Name(Signal)} for ‘{point.Name}’; it can carry {string.Join(", ", group.Signals.Intersect(SignalsFor(point)).Select(SignalConversion.Name))}.");
        if (Signal is Signal.Volts or Signal.Milliamps && !(double.IsFinite(Low) && double.IsFinite(High) && Low != High))
            yield return new Refusal(Id, "low", $"The range of {Terminal} goes from {Low} to {High}; both ends must differ.");
        if (!(Math.Abs(Correction) <= 1000)) yield return new Refusal(Id, "correction", $"A correction of {Correction} is not believable; use at most ±1000.");
    }

    /// <summary>Whether nothing outside is measured or moved by a point, so that it can only live in memory.</summary>
    public static bool IsForMemory(Point point) => point.Role is PointRole.Setpoint or PointRole.Value;

    /// <summary>The signals that could serve a point, most usual first.</summary>
    public static IReadOnlyList<Signal> SignalsFor(Point point) => (point.Kind, point.Role) switch
    {
        (PointKind.Analog, PointRole.Sensor) when Units.Unit.Find(point.Unit)?.Quantity == Units.Quantity.Temperature => [Signal.Pt1000, Signal.Volts, Signal.Milliamps],
        (PointKind.Analog, PointRole.Sensor) => [Signal.Volts, Signal.Milliamps],
        (PointKind.Binary, PointRole.Sensor) => [Signal.DryContact],
        (PointKind.Binary, _) => [Signal.Relay],
        (PointKind.Analog, _) => [Signal.Volts],
        _ => [],
    };

    /// <summary>Why a point cannot go onto a terminal of this group, in words, or null when it can.</summary>
    public static string? Why(Point point, TerminalGroup group, string terminal)
    {
        bool measures = point.Role == PointRole.Sensor;
        if (IsForMemory(point)) return $"‘{point.Name}’ is a {point.Role.ToString().ToLowerInvariant()}; it lives in the controller's memory, not on a terminal.";
        if (measures && group.Direction == Direction.Out) return $"{terminal} is an output and ‘{point.Name}’ is a sensor. Use an input.";
        if (!measures && group.Direction == Direction.In) return $"{terminal} is an input and ‘{point.Name}’ is a command. Use an output.";
        if (!SignalsFor(point).Intersect(group.Signals).Any())
        {
            string needs = SignalsFor(point).Count == 0 ? "no terminal can carry it" : $"it needs {string.Join(" or ", SignalsFor(point).Select(SignalConversion.Name))}";
            return $"{terminal} carries {string.Join(", ", group.Signals.Select(SignalConversion.Name))}; ‘{point.Name}’ is {(point.Kind == PointKind.Analog ? "analog" : point.Kind.ToString().ToLowerInvariant())} and {needs}.";
        }
        return null;
    }
}
