using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Conversations;

/// <summary>A channel that takes part in a conversation.</summary>
public sealed record TakingPart(RecordId DeviceId, string Channel);

/// <summary>What one thing in a room says and hears on a line: a lamp, a blind, a heating zone. Its group addresses belong to it.</summary>
public sealed record Conversation : ProjectRecord
{
    /// <summary>The most channels of one.</summary>
    public const int Most = 500;

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Conversation> AsKind { get; } = new("conversation")
    {
        Nouns = [new("conversation", "conversations")],
        Checks = BusChecks.OnConversation,
        Fields =
        [
            FieldOf<Conversation>.Choice("kind", "Kind", [.. ConversationKind.All.Select(k => k.Label)], c => ConversationKind.Find(c.Kind)?.Label ?? c.Kind, (c, v) => c with { Kind = ConversationKind.All.First(k => k.Label == v).Key }, FieldUses.Grid | FieldUses.Form).Told("What it is about, which brings what is said in it."),
        ],
    };

    /// <summary>The room it is about.</summary>
    public required RecordId PlaceId { get; init; }

    /// <summary>The key of its kind.</summary>
    public required string Kind { get; init; }

    /// <summary>The channels that take part.</summary>
    public IReadOnlyList<TakingPart> Channels { get; init; } = [];

    /// <inheritdoc/>
    public override RecordId? ParentId => PlaceId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId place = map.Owner(In, PlaceId);
        IReadOnlyList<TakingPart> channels = map.Each(Channels, c => map.Link(TakesPart, c.DeviceId) is { } device ? device == c.DeviceId ? c : c with { DeviceId = device } : null);
        return place == PlaceId && ReferenceEquals(channels, Channels) ? this : this with { PlaceId = place, Channels = channels };
    }

    private static readonly ReferenceSort In = ReferenceSort.Owner<Place>("in", "placeId", "place"), TakesPart = ReferenceSort.Link<BusDevice>("takes part", "channels", "bus device") with { Alone = true };

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey($"conversation|{PlaceId}|{Name.ToLowerInvariant()}", "name", "There is already a conversation called ‘{0}’ in this room. Choose another name.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (ConversationKind.Find(Kind) is null) yield return new Refusal(Id, "kind", $"There is no kind of conversation ‘{Kind}’. There are {string.Join(", ", ConversationKind.All.Select(k => k.Key))}.");
        if (Channels.Count > Most) yield return new Refusal(Id, "channels", $"At most {Most} channels take part in a conversation; this one has {Channels.Count}.");
        if (Channels.Distinct().Count() != Channels.Count) yield return new Refusal(Id, "channels", "A channel takes part once.");
        foreach (TakingPart part in Channels)
        {
            if (project.Find<BusDevice>(part.DeviceId) is { } device && device.DescriptionIn(project) is { } description && description.Form.ChannelAt(part.Channel) < 0) yield return new Refusal(Id, "channels", $"‘{device.Name}’ has no channel ‘{part.Channel}’.");
        }
    }
}
