using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Groups;

/// <summary>A range of the plan of group addresses: a main group, or a middle group in it, with its name and what is put there.</summary>
public sealed record GroupRange : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<GroupRange> AsKind { get; } = new("groupRange")
    {
        Nouns = [new("address range", "address ranges")],
        Fields =
        [
            FieldOf<GroupRange>.Whole("main", "Main group", r => r.Main, (r, v) => r with { Main = v }, FieldUses.Grid | FieldUses.Form).Told("The first level.", 0, GroupNumber.MostMain),
            new Field<GroupRange>("middle", "Middle group")
            {
                Uses = FieldUses.Grid | FieldUses.Form,
                IsNumber = true,
                Hint = "all of them",
                Says = (_, r) => r.Middle?.ToString(System.Globalization.CultureInfo.InvariantCulture),
                Reads = (_, r, text) => text.Length == 0 ? FieldReading.Of(r with { Middle = null }) : FieldTexts.Whole(text, out int middle) is { } refusal ? FieldReading.Refused(refusal) : FieldReading.Of(r with { Middle = middle }),
            }.Told("The second level; empty for the whole main group.", 0, GroupNumber.MostMiddle),
            FieldOf<GroupRange>.Text("takes", "Takes", r => r.Takes, (r, v) => r with { Takes = v }, FieldUses.Grid | FieldUses.Form, hint: "lamp.switch, dimmedLamp.switch").Told("Which roles of conversations are put here, by their keys with commas between; empty: it only has a name."),
            FieldOf<GroupRange>.Link<Place>("placeId", "For", "place", r => r.PlaceId, (r, v) => r with { PlaceId = v }, FieldUses.Grid | FieldUses.Form).Told("The building, floor or room whose addresses are put here; empty: everywhere."),
        ],
    };

    /// <summary>The first level.</summary>
    public required int Main { get; init; }

    /// <summary>The second level, or null for all of them.</summary>
    public int? Middle { get; init; }

    /// <summary>The roles that are put there: <c>lamp.switch, lamp.state</c>, or <c>lamp</c> for all of a kind; null for none.</summary>
    public string? Takes { get; init; }

    /// <summary>The place whose addresses are put there, or null.</summary>
    public RecordId? PlaceId { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => null;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId? place = map.Link(For, PlaceId);
        return place == PlaceId ? this : this with { PlaceId = place };
    }

    private static readonly ReferenceSort For = ReferenceSort.Link<Place>("for", "placeId", "place");

    /// <summary>Whether a role is put there.</summary>
    public bool TakesRole(string kind, string role) => Takes is not null && Takes.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries).Any(t => t == kind || t == $"{kind}.{role}");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() => [new UniqueKey($"group-range|{Main}/{Middle}|{PlaceId}|{Takes}", "main", $"This range is there already: ‘{{0}}’.")];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (Main is < 0 or > GroupNumber.MostMain) yield return new Refusal(Id, "main", $"There are main groups 0 to {GroupNumber.MostMain}, not {Main}.");
        if (Middle is < 0 or > GroupNumber.MostMiddle) yield return new Refusal(Id, "middle", $"There are middle groups 0 to {GroupNumber.MostMiddle}, not {Middle}.");
        foreach (string take in Takes?.Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries) ?? [])
        {
            string[] sides = take.Split('.');
            if (ConversationKind.Find(sides[0]) is not { } kind || sides.Length > 2 || (sides.Length == 2 && kind.Roles.All(r => r.Key != sides[1])))
                yield return new Refusal(Id, "takes", $"‘{take}’ is no role. Write the key of a kind, with a point and the key of a role: {string.Join(", ", ConversationKind.All.Select(k => k.Key))}; of lamp: {string.Join(", ", ConversationKind.All[0].Roles.Select(r => r.Key))}.");
        }
    }
}

/// <summary>Where new group addresses are put: by the ranges of the project, else by kind and role.</summary>
public static class AddressPlan
{
    /// <summary>
    /// A free address for a role: in the range that takes the role and is for the nearest place; then in the main group of the
    /// kind, in the middle group of the role's turn; then in any middle group of it; then anywhere.
    /// </summary>
    /// <exception cref="InvalidOperationException">All group addresses are taken.</exception>
    public static GroupNumber Free(Project project, IReadOnlySet<GroupNumber> taken, Conversation conversation, ConversationKind kind, ConversationRole role, int turn)
    {
        var near = project.Lineage(conversation.PlaceId).Select((r, i) => (r.Id, i)).ToDictionary(r => r.Id, r => r.i);
        IEnumerable<(int Main, int? Middle)> planned = project.All<GroupRange>().Where(r => r.TakesRole(kind.Key, role.Key) && (r.PlaceId is null || near.ContainsKey(r.PlaceId.Value) || r.PlaceId == conversation.PlaceId))
            .OrderBy(r => r.PlaceId is { } place ? near.GetValueOrDefault(place, -1) : int.MaxValue).ThenBy(r => r.Main).ThenBy(r => r.Middle ?? -1).Select(r => (r.Main, r.Middle));
        IEnumerable<(int Main, int? Middle)> all = planned.Append((kind.Main, turn & GroupNumber.MostMiddle)).Append((kind.Main, null)).Concat(Enumerable.Range(1, GroupNumber.MostMain).Select(m => (m, (int?)null)));
        foreach (var (main, middle) in all)
        {
            for (int m = middle ?? 0; m <= (middle ?? GroupNumber.MostMiddle); m++)
            {
                for (int sub = m == 0 && main == 0 ? 1 : 0; sub <= GroupNumber.MostSub; sub++)
                {
                    var number = GroupNumber.Of(main, m, sub);
                    if (number.Raw > 0 && !taken.Contains(number) && project.Holder(GroupAddress.Key(number)) is null) return number;
                }
            }
        }
        throw new InvalidOperationException(AllTaken);
    }

    /// <summary>The address itself where it is free, else the next that is: in its middle group, then in its main group, then anywhere above and below.</summary>
    /// <param name="taken">The keys of those that are given out already; the one that is found joins them.</param>
    /// <exception cref="InvalidOperationException">All group addresses are taken.</exception>
    public static GroupNumber Near(Project project, ISet<string> taken, GroupNumber from)
    {
        foreach (int mask in (int[])[0xFF, 0x7FF, 0xFFFF])
        {
            for (int i = 0; i <= mask; i++)
            {
                var number = new GroupNumber((ushort)((from.Raw & ~mask) | ((from.Raw + i) & mask)));
                string key = GroupAddress.Key(number);
                if (number.Raw > 0 && !taken.Contains(key) && project.Holder(key) is null && taken.Add(key)) return number;
            }
        }
        throw new InvalidOperationException(AllTaken);
    }

    private const string AllTaken = "All group addresses are taken. Remove some that nothing is joined to.";
}
