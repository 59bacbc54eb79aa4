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
        Checks = Findings.Checks.OnFitting,
        Fields =
        [
            FieldOf<Fitting>.Number("low", "Low", null, f => f.Low, (f, v) => f with { Low = v ?? 0 }, FieldUses.Form, units: (project, f) => project.Find<Point>(f.PointId)?.Unit).Told("What the point reads at the low end of its electrical signal."),
            FieldOf<Fitting>.Number("high", "High", null, f => f.High, (f, v) => f with { High = v ?? 0 }, FieldUses.Form, units: (project, f) => project.Find<Point>(f.PointId)?.Unit).Told("What the point reads at the high end of its electrical signal."),
            FieldOf<Fitting>.Link<SensorCurve>("curveId", "Curve", "sensor curve", f => f.CurveId, (f, v) => f with { CurveId = v }, FieldUses.Form).Told("A curve of the project's own, in place of a straight range."),
            FieldOf<Fitting>.Number("leadOhms", "Wires", "Ω", f => f.LeadOhms, (f, v) => f with { LeadOhms = v ?? 0 }, FieldUses.Form).Told("The resistance of both wires together, which is taken off what is measured.", 0, MostLead),
            FieldOf<Fitting>.Number("perPulse", "Each pulse", null, f => f.PerPulse, (f, v) => f with { PerPulse = v ?? 1 }, FieldUses.Form, units: (project, f) => project.Find<Point>(f.PointId)?.Unit).Told("What one pulse counts."),
            FieldOf<Fitting>.Span("runTimeSeconds", "Run time", f => f.RunTimeSeconds, (f, v) => f with { RunTimeSeconds = v }, FieldUses.Form, "run time", 0).Told("How long the drive takes from one end to the other.", 0, MostRunTime),
            FieldOf<Fitting>.Number("loadAmps", "Switches", "A", f => f.LoadAmps, (f, v) => f with { LoadAmps = v }, FieldUses.Form).Told("The current that it switches; checked against the rating of the output and of its feed.", 0),
            FieldOf<Fitting>.Text("toleranceClass", "Class", f => f.ToleranceClass, (f, v) => f with { ToleranceClass = v }, FieldUses.Form).Told("The class of accuracy of the sensor: B, A, AA."),
            FieldOf<Fitting>.Text("cable", "Cable", f => f.Cable, (f, v) => f with { Cable = v }, FieldUses.Form).Told("What the cable is called in the cable list; a number is proposed where none is given."),
            FieldOf<Fitting>.Number("correction", "Correction", null, f => f.Correction, (f, v) => f with { Correction = v ?? 0 }, FieldUses.Form, units: (project, f) => Units.Unit.Find(project.Find<Point>(f.PointId)?.Unit)?.Difference.Symbol).Told("What is added to the reading, as found by measuring beside the sensor.", -1000, 1000),
        ],
    };

    /// <summary>The terminal name that stands for the controller's memory.</summary>
    public const string MemoryTerminal = "value";

    /// <summary>The controller.</summary>
    public required RecordId ControllerId { get; init; }

    /// <summary>The terminal, such as UI3, or <see cref="MemoryTerminal"/>.</summary>
    public required string Terminal { get; init; }

    /// <summary>The module that the terminal is on; none for the controller's own.</summary>
    public RecordId? ModuleId { get; init; }

    /// <summary>What the terminal carries.</summary>
    public required Signal Signal { get; init; }

    /// <summary>A curve of the project's own, in place of a straight range.</summary>
    public RecordId? CurveId { get; init; }

    /// <summary>Resistance of both wires together, Ω.</summary>
    public double LeadOhms { get; init; }

    /// <summary>What one pulse counts, in the point's unit.</summary>
    public double PerPulse { get; init; } = 1;

    /// <summary>How long the drive takes from one end to the other, s.</summary>
    public double RunTimeSeconds { get; init; }

    /// <summary>The current that it switches, A.</summary>
    public double? LoadAmps { get; init; }

    /// <summary>The class of accuracy of the sensor.</summary>
    [Most(20)]
    public string? ToleranceClass { get; init; }

    /// <summary>What its cable is called.</summary>
    [Most(40)]
    public string? Cable { get; init; }

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
        RecordId? module = ModuleId is { } on ? map.Owner(OnModule, on) : null, curve = map.Link(ByCurve, CurveId);
        return controller == ControllerId && point == PointId && module == ModuleId && curve == CurveId ? this : this with { ControllerId = controller, PointId = point, ModuleId = module, CurveId = curve };
    }

    private static readonly ReferenceSort On = ReferenceSort.Owner<Controller>("on", "controllerId", "controller"), OfPoint = ReferenceSort.Owner<Point>("of", "pointId", "point"),
        OnModule = ReferenceSort.Owner<IoModule>("on", "moduleId", "module"), ByCurve = ReferenceSort.Link<SensorCurve>("by", "curveId", "sensor curve");

    private const double MostLead = 1000, MostRunTime = 3600;

    /// <summary>What the terminal is set to, worked out.</summary>
    public SignalSettings Settings(Func<RecordId, ProjectRecord?> find) =>
        new(Low, High, Correction, Inverted, Signal.ScaleOf((find(PointId) as Point)?.Unit), LeadOhms, PerPulse, CurveId is { } curve && find(curve) is SensorCurve own ? own.ToCurve() : null);

    internal static string TerminalKey(RecordId controller, string terminal) => $"terminal|{controller}|{terminal}";

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys()
    {
        foreach (UniqueKey key in base.UniqueKeys()) yield return key;
        if (Terminal != MemoryTerminal)
            yield return new UniqueKey(TerminalKey(ControllerId, Terminal), "terminal", $"{Terminal} is taken by ‘{{0}}’. Choose a free terminal, or take that point off first.");
    }

    /// <inheritdoc/>
    public override IEnumerable<Share> Shares() => IsInMemory ? [new Share(ControllerId, ControllerMemory.ValueCount, 1)] : [];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        // Without both there is nothing more to ask; that they are missing is said of every reference alike.
        if (project.Find(ControllerId) is not Controller controller || Catalogue.Find(project, controller.ModelId) is null || project.Find(PointId) is not Point point) yield break;
        if (Name != Terminal) yield return new Refusal(Id, "name", $"The name of a fitting is its terminal, ‘{Terminal}’.");
        if (Terminal == MemoryTerminal)
        {
            if (Signal != Signal.Memory || ModuleId is not null) yield return new Refusal(Id, "signal", "A value in memory carries no signal.");
            if (point.Role == PointRole.Sensor) yield return new Refusal(Id, "terminal", $"‘{point.Name}’ is a sensor; it needs a terminal that measures, not a value in memory.");
            if (ControllerMemory.Of(project, controller) is { ValuesOver: { } over }) yield return new Refusal(Id, "terminal", over);
            yield break;
        }
        if (project.Referrers<Trends.TrendLog>(point.Id).Any() && ControllerMemory.Of(project, controller) is { SamplesOver: { } full }) yield return new Refusal(Id, "terminal", full);
        if (PanelTerminals.Find(project, controller, Terminal) is not { Group: var group } place)
        {
            yield return new Refusal(Id, "terminal", $"{controller.Name} has no terminal ‘{Terminal}’. It has {PanelTerminals.InWords(project, controller)}.");
            yield break;
        }
        if (place.Module?.Id != ModuleId) yield return new Refusal(Id, "moduleId", $"‘{Terminal}’ is a terminal of {(place.Module is { } on ? $"module ‘{on.Name}’" : "the controller itself")}; the record says otherwise.");
        if (Why(point, group, Terminal) is { } reason) yield return new Refusal(Id, "terminal", reason);
        else if (!Holds(Signal, point) && Signal.Celsius is { } can)
            yield return new Refusal(Id, "signal", $"{Signal.Name} measures {can.Low:0} to {can.High:0} °C, and ‘{point.Name}’ goes from {point.Low} to {point.High} {point.Unit}. Use a transmitter, such as 4–20 mA, or correct the range of the point.");
        else if (!SignalsFor(point).Contains(Signal) || !group.Signals.Contains(Signal))
            yield return new Refusal(Id, "signal", $"{Terminal} cannot carry {Signal.Name} for ‘{point.Name}’; it can carry {string.Join(", ", group.Signals.Intersect(SignalsFor(point)).Select(s => s.Name))}.");
        bool byCurve = CurveId is not null && (Signal.Asks & (SignalAsks.Curve | SignalAsks.MayCurve)) != 0;
        if ((Signal.Asks & SignalAsks.Range) != 0 && !byCurve && !(double.IsFinite(Low) && double.IsFinite(High) && Low != High))
            yield return new Refusal(Id, "low", $"The range of {Terminal} goes from {Low} to {High}; both ends must differ.");
        if ((Signal.Asks & SignalAsks.Curve) != 0 && CurveId is null) yield return new Refusal(Id, "curveId", $"{Terminal} measures a resistance, and only a curve says what that means. Choose one, or make one first.");
        if (!(LeadOhms is >= 0 and <= MostLead)) yield return new Refusal(Id, "leadOhms", $"Wires of {LeadOhms} Ω are not believable; use 0 to {MostLead} Ω.");
        if (!(double.IsFinite(PerPulse) && PerPulse > 0)) yield return new Refusal(Id, "perPulse", "A pulse counts something above nothing.");
        if (!(RunTimeSeconds is >= 0 and <= MostRunTime)) yield return new Refusal(Id, "runTimeSeconds", $"A run time of {RunTimeSeconds} s is not between 0 and {MostRunTime} s.");
        else if ((Signal.Asks & SignalAsks.RunTime) != 0 && RunTimeSeconds == 0) yield return new Refusal(Id, "runTimeSeconds", $"{Terminal} drives by opening and closing, so it must know how long the drive takes from end to end. Give its run time.");
        if (LoadAmps is < 0 or double.NaN) yield return new Refusal(Id, "loadAmps", "A current that is switched is not below nothing.");
        if (ToleranceClass is { } @class && Signal.Tolerances.All(t => t.Key != @class)) yield return new Refusal(Id, "toleranceClass", Signal.Tolerances.Count == 0 ? $"{Signal.Name} comes in no classes." : $"{Signal.Name} comes in the classes {string.Join(", ", Signal.Tolerances.Select(t => t.Key))}; ‘{@class}’ is none of them.");
        if (!(Math.Abs(Correction) <= 1000)) yield return new Refusal(Id, "correction", $"A correction of {Correction} is not believable; use at most ±1000.");
    }

    /// <summary>Whether nothing outside is measured or moved by a point, so that it can only live in memory.</summary>
    public static bool IsForMemory(Point point) => point.Role is PointRole.Setpoint or PointRole.Value;

    /// <summary>Whether the terminal of a point measures or drives.</summary>
    public static Direction DirectionOf(Point point) => point.Role == PointRole.Sensor ? Direction.In : Direction.Out;

    /// <summary>The signals that could serve a point, most usual first.</summary>
    public static IReadOnlyList<Signal> SignalsFor(Point point)
    {
        bool measures = point.Role == PointRole.Sensor;
        int sort = point.Kind == PointKind.Multistate ? 4 : measures ? point.Kind == PointKind.Binary ? 1 : Units.Unit.Find(point.Unit)?.Quantity == Units.Quantity.Temperature ? 2 : 3 : point.Kind == PointKind.Binary ? 0 : 5;
        // A thermometer whose element does not reach as far as the point does is none for it.
        return sort == 2 && point is { Low: not null, High: not null } && Array.Exists(Serving[sort], s => !Holds(s, point)) ? Array.FindAll(Serving[sort], s => Holds(s, point)) : Serving[sort];
    }

    /// <summary>Whether what a signal can measure holds the range of a point.</summary>
    public static bool Holds(Signal signal, Point point)
    {
        if (signal.Celsius is not { } can || point.Low is not { } low || point.High is not { } high) return true;
        if (signal.ScaleOf(point.Unit) is { } scale) (low, high) = ((low - scale.Offset) / scale.Factor, (high - scale.Offset) / scale.Factor);
        // Half a kelvin, so that what a table ends with is held.
        return low >= can.Low - 0.5 && high <= can.High + 0.5;
    }

    private static readonly Signal[] NotForMemory = [.. Signal.All.Where(s => s != Signal.Memory)];

    /// <summary>By sort of point: switched, contact, temperature, other measured, none, driven.</summary>
    private static readonly Signal[][] Serving =
    [
        [.. NotForMemory.Where(s => s.Drives && s.Carries == PointKind.Binary)],
        [.. NotForMemory.Where(s => s.Measures && s.Carries == PointKind.Binary)],
        [.. NotForMemory.Where(s => s.Measures && s.Carries == PointKind.Analog && s != Signal.Pulses)],
        [.. NotForMemory.Where(s => s.Measures && s.Carries == PointKind.Analog && !s.IsThermometer)],
        [],
        [.. NotForMemory.Where(s => s.Drives && s.Carries == PointKind.Analog)],
    ];

    /// <summary>Signals in a few words, the most usual ones.</summary>
    private static string Some(IReadOnlyList<Signal> signals) => signals.Count <= 3 ? string.Join(" or ", signals.Select(s => s.Name)) : $"{string.Join(", ", signals.Take(3).Select(s => s.Name))} or another of {signals.Count} signals";

    /// <summary>Why a point cannot go onto a terminal of this group, in words, or null when it can.</summary>
    public static string? Why(Point point, TerminalGroup group, string terminal)
    {
        bool measures = point.Role == PointRole.Sensor;
        if (IsForMemory(point)) return $"‘{point.Name}’ is a {point.Role.ToString().ToLowerInvariant()}; it lives in the controller's memory, not on a terminal.";
        if (measures && group.Direction == Direction.Out) return $"{terminal} is an output and ‘{point.Name}’ is a sensor. Use an input.";
        if (!measures && group.Direction == Direction.In) return $"{terminal} is an input and ‘{point.Name}’ is a command. Use an output.";
        if (!SignalsFor(point).Intersect(group.Signals).Any())
        {
            string needs = SignalsFor(point).Count == 0 ? "no terminal can carry it" : $"it needs {Some(SignalsFor(point))}";
            return $"{terminal} carries {string.Join(", ", group.Signals.Select(s => s.Name))}; ‘{point.Name}’ is {(point.Kind == PointKind.Analog ? "analog" : point.Kind.ToString().ToLowerInvariant())} and {needs}.";
        }
        return null;
    }
}
