using System.Text.Json;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Images;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Stories;

/// <summary>A story that is kept: told to a device, or to all bus devices of a room, with what must come of it.</summary>
public sealed record Story : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Story> AsKind { get; } = new("story") { Nouns = [new("story", "stories")], IsSpelled = false, Grain = ConflictGrain.Part, Parts = [new("events", "id"), new("expectations", "id")] };

    /// <summary>The device or the room that it is told to.</summary>
    public required RecordId OwnerId { get; init; }

    /// <summary>How long it lasts, s.</summary>
    public double Seconds { get; init; } = 600;

    /// <summary>What happens.</summary>
    public IReadOnlyList<StoryEvent> Events { get; init; } = [];

    /// <summary>What must come of it.</summary>
    public IReadOnlyList<StoryExpectation> Expectations { get; init; } = [];

    /// <inheritdoc/>
    public override RecordId? ParentId => OwnerId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId owner = map.Owner(Of, OwnerId);
        IReadOnlyList<StoryEvent> events = map.Each(Events, e => e.DeviceId is { } d && map.Link(About, d) is var to && to != d ? e with { DeviceId = to } : e);
        IReadOnlyList<StoryExpectation> expectations = map.Each(Expectations, e => e.DeviceId is { } d && map.Link(About, d) is var to && to != d ? e with { DeviceId = to } : e);
        return owner == OwnerId && ReferenceEquals(events, Events) && ReferenceEquals(expectations, Expectations) ? this : this with { OwnerId = owner, Events = events, Expectations = expectations };
    }

    private static readonly ReferenceSort Of = new("of", "ownerId", "bus device or place", typeof(BusDevice), typeof(Place)) { Owning = true }, About = ReferenceSort.Link<BusDevice>("about", "events", "bus device");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey($"story|{OwnerId}|{Name.ToLowerInvariant()}", "name", "There is already a story called ‘{0}’ here. Choose another name.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (!(Seconds is >= 1 and <= StoryStage.Longest)) yield return new Refusal(Id, "seconds", "A story lasts from 1 s to 31 days.");
        if (Events.Count > StoryStage.MostEvents || Expectations.Count > StoryStage.MostEvents) yield return new Refusal(Id, "events", $"A story has at most {StoryStage.MostEvents} events and as many expectations.");
        if (Events.Any(e => !(e.At >= 0 && e.At <= Seconds) || e.For is < 0)) yield return new Refusal(Id, "events", "An event happens between the beginning and the end of its story, and lasts for a time.");
    }

    /// <summary>The devices that it is told to, as they are designed: of a room those in it and those with a channel that serves it.</summary>
    public static IReadOnlyList<StagedDevice> Cast(Project project, RecordId owner) =>
        [.. (project.Find<BusDevice>(owner) is { } device ? (IEnumerable<BusDevice>)[device] : project.Referrers<BusDevice>(owner).OrderBy(d => d.Name, StringComparer.Ordinal)).Select(d => Staged(project, d)).OfType<StagedDevice>()];

    /// <summary>What comes of it as its devices are designed now.</summary>
    /// <exception cref="InvalidOperationException">It cannot be told; the message says why.</exception>
    public StoryRun Tell(Project project, CancellationToken cancel = default) =>
        Cast(project, OwnerId) is { Count: > 0 } cast ? StoryStage.Tell(cast, Events, Expectations, Seconds, cancel) : throw new InvalidOperationException("There is no bus device here that the story could be told to.");

    /// <summary>What it rests on, as a hash: what happens and must come of it, and its devices with all that is set and joined.</summary>
    public string Rests(Project project) => HostKinds.HashOf(JsonSerializer.SerializeToUtf8Bytes(new
    {
        Seconds,
        Events,
        Expectations,
        Devices = Cast(project, OwnerId).Select(d => new { d.Id, d.Values.Form.Description.Revision, Set = d.Values.Form.Parameters.Select(p => d.Values.ValueOf(p.At)), Joins = d.Joins.Select(j => new { j.Object, Groups = j.Groups.Select(g => g.Raw) }) }),
    }, RecordJson.Options));

    /// <summary>A device as a story takes it; null where its description is lost.</summary>
    public static StagedDevice? Staged(Project project, BusDevice device) => device.ValuesIn(project) is not { } values ? null
        : new StagedDevice(device.Id, device.Name, values, [.. device.Joins.Select(j => (j.Object, (IReadOnlyList<GroupNumber>)[.. j.Groups.Select(g => project.Find<GroupAddress>(g)?.Number).OfType<GroupNumber>()]))]);
}
