using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Plant;

/// <summary>
/// What in the building a point measures or drives: a quantity of a room, of a machine, or of the weather. Where somebody has
/// chosen it, it is so whatever the point is called; where nobody has, <see cref="PlantTies.Propose"/> says what it would be.
/// </summary>
public sealed record PlantTie : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<PlantTie> AsKind { get; } = new("plantTie")
    {
        Nouns = [new("plant tie", "plant ties")],
        IsSearched = false,
        IsSpelled = false,
        Fields =
        [
            FieldOf<PlantTie>.Shown("thingId", "Of", (project, t) => t.ThingId is { } thing ? project.Find(thing)?.Name : "outdoors", "The tie of a point is chosen on the panel of its controller.", FieldUses.None),
            FieldOf<PlantTie>.Choice("quantity", "Quantity", [.. PlantQuantities.Keys], t => t.Quantity, (t, v) => t with { Quantity = v }, FieldUses.None),
        ],
    };

    /// <summary>The point.</summary>
    public required RecordId PointId { get; init; }

    /// <summary>The room or the machine, with which the tie goes; none for the weather.</summary>
    public RecordId? ThingId { get; init; }

    /// <summary>Which of its quantities; see <see cref="PlantQuantities"/>.</summary>
    public required string Quantity { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => PointId;

    /// <inheritdoc/>
    public override string Called(Func<RecordId, ProjectRecord?> find) => $"{(ThingId is { } thing ? find(thing)?.Name : "Outdoors")} · {Quantity}";

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId point = map.Owner(Of, PointId);
        RecordId? thing = ThingId is { } id ? map.Owner(To, id) : null;
        return point == PointId && thing == ThingId ? this : this with { PointId = point, ThingId = thing };
    }

    private static readonly ReferenceSort Of = ReferenceSort.Owner<Point>("ties", "pointId", "point"), To = new("is tied to", "thingId", "room or piece of equipment", typeof(Place), typeof(Equipment)) { Owning = true };

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey(PlantTies.Key(PointId), "pointId", "This point is tied to something already. Change that tie.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        ProjectRecord? thing = ThingId is { } id ? project.Find(id) : null;
        if (thing is Place { Kind: not PlaceKind.Room } place) yield return new Refusal(Id, "thingId", $"‘{place.Name}’ is a {place.Noun}; a point is tied to a room, to equipment or to the weather.");
        else if (PlantQuantities.Of(thing).All(q => q.Key != Quantity)) yield return new Refusal(Id, "quantity", PlantQuantities.Of(thing) is { Count: > 0 } has ? $"{(thing is null ? "The weather" : $"‘{thing.Name}’")} has no {Quantity}; it has {string.Join(", ", has.Select(q => q.Key))}." : $"The site has nothing to measure or drive in ‘{thing!.Name}’.");
    }
}
