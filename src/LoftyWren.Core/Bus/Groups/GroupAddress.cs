using LoftyWren.Core.Derivation;
using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Groups;

/// <summary>A group address: what is said under it, in which form, and for which role of a conversation.</summary>
public sealed record GroupAddress : ProjectRecord
{
    /// <summary>How often all who send to it repeat though nothing happens, telegrams in 1,000,000 s.</summary>
    public static SumSort Again { get; } = new("repeated to it", "telegrams/Ms");

    /// <summary>The kind in the registry.</summary>
    public static RecordKind<GroupAddress> AsKind { get; } = new("groupAddress")
    {
        Nouns = [new("group address", "group addresses")],
        Grain = ConflictGrain.Field,
        IsSpelled = false,
        RunsInImage = true,
        Numbered = (project, g, taken) => g with { Number = AddressPlan.Near(project, taken, g.Number) },
        Checks = BusChecks.OnGroup,
        Fields =
        [
            new Field<GroupAddress>("number", "Address")
            {
                Uses = FieldUses.Grid | FieldUses.Form,
                Says = (_, g) => g.Number.ToString(),
                Sorts = g => g.Number.Raw,
                Reads = (_, g, text) => GroupNumber.Read(text) is { Raw: > 0 } number ? FieldReading.Of(g with { Number = number }) : FieldReading.Refused($"‘{text}’ is no group address. It is written in three levels, such as 1/2/34: up to 31, 7 and 255, and not 0/0/0."),
            }.Told("In three levels."),
            new Field<GroupAddress>("datapoint", "Datapoint type")
            {
                Uses = FieldUses.Grid | FieldUses.Form,
                Says = (_, g) => g.Datapoint,
                Reads = (_, g, text) => DatapointType.Find(text.Split(' ')[0]) is { } type ? FieldReading.Of(g with { Datapoint = type.Key }) : FieldReading.Refused($"There is no datapoint type ‘{text}’. It is written like 1.001 or 9.001."),
            }.Told("In which form its values are sent."),
        ],
    };

    /// <summary>The address itself.</summary>
    public required GroupNumber Number { get; init; }

    /// <summary>The key of its datapoint type.</summary>
    public required string Datapoint { get; init; }

    /// <summary>The conversation that it is part of, or null.</summary>
    public RecordId? ConversationId { get; init; }

    /// <summary>Its role there, by key; of a role that each taking-part channel has for itself, with the channel: <c>state:DEVICE/output1</c>.</summary>
    public string? Role { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => ConversationId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId? conversation = map.Link(Of, ConversationId);
        string? role = RoleThrough(map);
        return conversation == ConversationId && role == Role ? this : this with { ConversationId = conversation, Role = role };
    }

    private string? RoleThrough(ReferenceMap map) => Role?.IndexOf(':', StringComparison.Ordinal) is >= 0 and var colon && Role.IndexOf('/', colon) is >= 0 and var slash ? $"{Role[..(colon + 1)]}{map.Mentions(Role[(colon + 1)..slash])}{Role[slash..]}" : Role;

    private static readonly ReferenceSort Of = new("of", "conversationId", "conversation", typeof(Conversation)) { Owning = true };

    /// <inheritdoc/>
    public override bool IsAlikeFromOutside(ProjectRecord before) => before is GroupAddress group && RecordJson.Same(this with { Name = group.Name }, group);

    internal static string Key(GroupNumber number) => $"group|{number.Raw}";

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey(Key(Number), "number", $"{Number} is that of ‘{{0}}’ already. Choose a free address.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName(120)) yield return refusal;
        if (Number.Raw == 0) yield return new Refusal(Id, "number", "0/0/0 is nobody's address. Choose another.");
        if (DatapointType.Find(Datapoint) is null) yield return new Refusal(Id, "datapoint", $"There is no datapoint type ‘{Datapoint}’.");
        if (Role is { Length: > 160 }) yield return new Refusal(Id, "role", "The role of a group address is too long.");
    }

    /// <summary>The record with a number, or null.</summary>
    public static GroupAddress? At(Project project, GroupNumber number) => project.Find<GroupAddress>(project.Holder(Key(number)));

    /// <summary>The objects that are joined to it: the device, the object, and whether it sends to it.</summary>
    public IEnumerable<(BusDevice Device, ObjectJoin Join, bool Sends)> JoinedIn(Project project) =>
        project.Referrers<BusDevice>(Id).SelectMany(d => d.Joins.Where(j => j.Groups.Contains(Id)).Select(j => (d, j, j.Groups[0] == Id)));
}
