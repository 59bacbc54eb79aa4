using System.Text.Json.Serialization;
using LoftyWren.Core.Claims;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Tags;

namespace LoftyWren.Core.Points;

/// <summary>What sort of value a point has.</summary>
public enum PointKind
{
    /// <summary>A number with a unit.</summary>
    Analog,
    /// <summary>One of two states; 0 is the first text, 1 the second.</summary>
    Binary,
    /// <summary>One of several states, numbered from 1.</summary>
    Multistate,
}

/// <summary>What a point is for.</summary>
public enum PointRole
{
    /// <summary>It measures.</summary>
    Sensor,
    /// <summary>It commands.</summary>
    Command,
    /// <summary>Somebody sets it, and logic aims at it.</summary>
    Setpoint,
    /// <summary>A calculated or internal value.</summary>
    Value,
}

/// <summary>One value of a piece of equipment or a place.</summary>
public sealed record Point : TaggedRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Point> AsKind { get; } = new("point")
    {
        Nouns = [new("point", "points") { NameTokens = NamePattern.AllFills }],
        ListHeaders = ["point name", "object", "signal name", "name"],
        Grain = ConflictGrain.Field,
        RunsInImage = true,
        TakesBack = (runs, design, _) => runs with { Tags = design.Tags, TemplateTags = design.TemplateTags },
        HasVariables = true,
        Begins = (id, name, owner) => owner is Place or Equipment ? new Point { Id = id, Name = name, OwnerId = owner.Id, Kind = PointKind.Analog, Role = PointRole.Sensor } : null,
        Settles = PointFields.Settle,
        Tags = PointTags.Give,
        Checks = Findings.Checks.OnPoint,
        Fields = PointFields.All,
    };

    /// <summary>The equipment or place it belongs to.</summary>
    public required RecordId OwnerId { get; init; }

    /// <summary>Analog, binary or multistate.</summary>
    public required PointKind Kind { get; init; }

    /// <summary>Sensor, command, setpoint or value.</summary>
    public required PointRole Role { get; init; }

    /// <summary>The symbol of its unit; analog points only. None means a bare number.</summary>
    public string? Unit { get; init; }

    /// <summary>The names of its states: two for binary, two or more for multistate.</summary>
    public IReadOnlyList<string> StateTexts { get; init; } = [];

    /// <summary>Lowest value that makes sense, in the point's unit.</summary>
    public double? Low { get; init; }

    /// <summary>Highest value that makes sense, in the point's unit.</summary>
    public double? High { get; init; }

    /// <summary>What it takes when every claim is released (the relinquish default of ISO 16484-5), or a setpoint's design value. Not for sensors.</summary>
    public double? Fallback { get; init; }

    /// <summary>For how long it stays on at least once it is, s; binary commands only. It holds at the output itself, at priority 6, whoever commands it.</summary>
    public double? LeastOn { get; init; }

    /// <summary>For how long it stays off at least once it is, s; as <see cref="LeastOn"/>.</summary>
    public double? LeastOff { get; init; }

    /// <summary>Whether it stays on or off for a time once it is.</summary>
    [JsonIgnore]
    public bool HasLeastTimes => LeastOn > 0 || LeastOff > 0;

    /// <summary>The longest least time, s.</summary>
    public const double LongestLeast = 86_400;

    /// <summary>The setpoint that this sensor is compared with on floor views.</summary>
    public RecordId? SetpointId { get; init; }

    /// <summary>What a technician should know of it.</summary>
    [Most(1000, Lines = true)]
    public string? Description { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => OwnerId;

    /// <inheritdoc/>
    public override bool IsAlikeFromOutside(ProjectRecord before) => before is Point point && RecordJson.Same(this with { Description = point.Description }, point);

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId owner = map.Owner(Owner, OwnerId);
        RecordId? setpoint = map.Link(Compared, SetpointId);
        return owner == OwnerId && setpoint == SetpointId ? this : this with { OwnerId = owner, SetpointId = setpoint };
    }

    private static readonly ReferenceSort Owner = new("of", "ownerId", "place or piece of equipment", typeof(Place), typeof(Equipment)) { Owning = true }, Compared = ReferenceSort.Link<Point>("setpoint", "setpointId", "setpoint");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys()
    {
        yield return new UniqueKey($"point|{OwnerId}|{Name.ToLowerInvariant()}", "name", "There is already a point called ‘{0}’ here. Choose another name.");
        if (HasLeastTimes) yield return new UniqueKey(Sequence.ClaimKey(Id, Ladder.LeastTimes), "leastOn", $"Least times of ‘{Name}’ speak at priority {Ladder.LeastTimes}, which ‘{{0}}’ claims. Give that claim another priority first.");
    }

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckNameAndTags()) yield return refusal;
        if (Kind == PointKind.Analog)
        {
            if (Unit is { Length: > 0 } && Units.Unit.Find(Unit) is null)
                yield return new Refusal(Id, "unit", $"‘{Unit}’ is not a known unit. Use one of: {string.Join(", ", Units.Unit.All.Select(u => u.Symbol))}, or none.");
            if (StateTexts.Count > 0) yield return new Refusal(Id, "stateTexts", $"‘{Name}’ is analog and has no state texts. Clear them or make it binary or multistate.");
        }
        else
        {
            if (!string.IsNullOrEmpty(Unit)) yield return new Refusal(Id, "unit", $"‘{Name}’ is {Kind.ToString().ToLowerInvariant()} and has no unit. Clear it.");
            if (Kind == PointKind.Binary && StateTexts.Count != 2)
                yield return new Refusal(Id, "stateTexts", $"‘{Name}’ is binary and needs two state texts, such as “off · on”; it has {StateTexts.Count}.");
            if (Kind == PointKind.Multistate && StateTexts.Count is < 2 or > 64)
                yield return new Refusal(Id, "stateTexts", $"‘{Name}’ is multistate and needs 2 to 64 state texts; it has {StateTexts.Count}.");
            if (StateTexts.Any(t => string.IsNullOrWhiteSpace(t) || t.Length > 40)) yield return new Refusal(Id, "stateTexts", "A state text has 1 to 40 characters.");
            if (StateTexts.Distinct(StringComparer.OrdinalIgnoreCase).Count() != StateTexts.Count) yield return new Refusal(Id, "stateTexts", $"Two states of ‘{Name}’ have the same text. Give each its own.");
        }
        if (Low is { } low && High is { } high && !(low < high)) yield return new Refusal(Id, "low", $"The low limit {low} of ‘{Name}’ is not below its high limit {high}.");
        if (Fallback is { } fallback)
        {
            if (Role == PointRole.Sensor) yield return new Refusal(Id, "fallback", $"‘{Name}’ is a sensor; only commands, setpoints and values have a fallback. Clear it.");
            else if (!IsInRange(fallback)) yield return new Refusal(Id, "fallback", $"The fallback {fallback} of ‘{Name}’ is outside what the point can take.");
        }
        foreach (var (field, words, least) in ((string, string, double?)[])[("leastOn", "on", LeastOn), ("leastOff", "off", LeastOff)])
        {
            if (least is not { } seconds) continue;
            if (Kind != PointKind.Binary || Role != PointRole.Command) yield return new Refusal(Id, field, $"‘{Name}’ is no binary command; only those have a least time {words}. Clear it.");
            else if (!(seconds is >= 0 and <= LongestLeast)) yield return new Refusal(Id, field, $"The least time {words} of ‘{Name}’ is {seconds} s; it must be from 0 to {LongestLeast:0} s.");
        }
        if (project.Find<Point>(SetpointId) is { } other)
        {
            if (other.Kind != PointKind.Analog || Kind != PointKind.Analog || Units.Unit.Find(other.Unit)?.Quantity != Units.Unit.Find(Unit)?.Quantity)
                yield return new Refusal(Id, "setpointId", $"‘{Name}’ and its setpoint ‘{other.Name}’ do not measure the same quantity.");
        }
    }

    /// <summary>Whether a command may give the point this value: within limits for analog, an existing state otherwise.</summary>
    public bool IsInRange(double value) => Kind switch
    {
        PointKind.Binary => value is 0 or 1,
        PointKind.Multistate => value >= 1 && value <= StateTexts.Count && value == Math.Floor(value),
        _ => double.IsFinite(value) && value >= (Low ?? double.MinValue) && value <= (High ?? double.MaxValue),
    };
}
