using System.Runtime.CompilerServices;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tags;

namespace LoftyWren.Core.Tests.Records;

/// <summary>A smoke hatch: a kind that only tests know. It has an owner, a list of links, five fields and a number of its own.</summary>
public sealed record Hatch : TaggedRecord
{
    public static RecordKind<Hatch> AsKind { get; } = new("hatch")
    {
        Nouns = [new("hatch", "hatches") { NameTokens = ["building", "floor", "room", "short"] }],
        Begins = (id, name, owner) => owner is Place or Equipment ? new Hatch { Id = id, Name = name, OwnerId = owner.Id } : null,
        Grain = ConflictGrain.Field,
        HasVariables = true,
        Numbers = [new UniqueNumber<Hatch>("address", 1, 999, h => h.Address, (h, n) => h with { Address = n })],
        Tags = (hatch, tags) => tags.Mark("it is a hatch", "hatch"),
        Checks = (_, hatch) => hatch.Opens.Count > 0 ? [] : [new Finding($"idle-hatch|{hatch.Id}", "idle-hatch", Severity.Medium, hatch.Id, $"‘{hatch.Name}’ opens for nothing.", "No point is named for which it opens.")],
        Fields =
        [
            FieldOf<Hatch>.Whole("address", "Address", h => h.Address, (h, v) => h with { Address = v }, FieldUses.Grid | FieldUses.Form | FieldUses.Import | FieldUses.Export),
            FieldOf<Hatch>.Number("widthMetres", "Width", "m", h => h.WidthMetres, (h, v) => h with { WidthMetres = v }, FieldUses.Grid | FieldUses.Form | FieldUses.Import | FieldUses.Export),
            FieldOf<Hatch>.Choice("glazing", "Glazing", ["glass", "steel"], h => h.Glazing, (h, v) => h with { Glazing = v }, FieldUses.Grid | FieldUses.Form | FieldUses.Import | FieldUses.Export | FieldUses.Condition | FieldUses.Group),
            FieldOf<Hatch>.Text("note", "Note", h => h.Note, (h, v) => h with { Note = v }, FieldUses.Grid | FieldUses.Form | FieldUses.Import | FieldUses.Export | FieldUses.Replace | FieldUses.Spelled),
            FieldOf<Hatch>.Links<Point>("opens", "Opens for", "point", h => h.Opens, (h, v) => h with { Opens = v }, FieldUses.Grid | FieldUses.Form | FieldUses.Import | FieldUses.Export),
            TagFields.Of<Hatch>(),
        ],
    };

    public required RecordId OwnerId { get; init; }

    public int Address { get; init; }

    public double? WidthMetres { get; init; }

    public string Glazing { get; init; } = "glass";

    public string? Note { get; init; }

    public IReadOnlyList<RecordId> Opens { get; init; } = [];

    public override RecordId? ParentId => OwnerId;

    public static SumSort Glass { get; } = new("width of hatches", "mm");

    public override IEnumerable<Share> Shares() => WidthMetres is { } width ? [new Share(OwnerId, Glass, (long)Math.Round(width * 1000))] : [];

    private static readonly ReferenceSort Owner = new("of", "ownerId", "place or piece of equipment", typeof(Place), typeof(Equipment)) { Owning = true }, For = ReferenceSort.Link<Point>("opens for", "opens", "point");

    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId owner = map.Owner(Owner, OwnerId);
        IReadOnlyList<RecordId> opens = map.Links(For, Opens);
        return owner == OwnerId && ReferenceEquals(opens, Opens) ? this : this with { OwnerId = owner, Opens = opens };
    }

    public override IEnumerable<UniqueKey> UniqueKeys() =>
    [
        new UniqueKey($"hatch|{OwnerId}|{Name.ToLowerInvariant()}", "name", "There is already a hatch called ‘{0}’ here."),
        new UniqueKey($"hatch-address|{Address}", "address", "Address {0} is taken."),
    ];

    public override IEnumerable<Refusal> Check(Project project) => CheckNameAndTags();
}

internal static class Registration
{
    [ModuleInitializer]
    internal static void Register() => RecordKinds.Register(Hatch.AsKind);
}
