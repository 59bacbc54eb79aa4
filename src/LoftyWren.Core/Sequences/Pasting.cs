using LoftyWren.Core.Findings;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Sequences;

/// <summary>A point that what is pasted reads or commands: which it was, which plays its part in the other sequence (none where it must be asked for), and why that one.</summary>
public sealed record PasteMatch(RecordId Was, RecordId? Is, string Why, bool IsCommanded);

/// <summary>A sequence with what was pasted into it, the points that were matched, and the ids of what is new: blocks by their ids, outputs as o:id.</summary>
public sealed record Pasted(Sequence Sequence, IReadOnlyList<PasteMatch> Matches, IReadOnlyList<string> Made, int Opened);

/// <summary>
/// Pastes blocks, and the claims that were copied with them, from one sequence into another. Points come along by what they
/// are to their equipment: the room temperature of one fan-coil is that of the other. What is shared stays what it is, and what
/// has no counterpart is asked for; until it is said it is left open.
/// </summary>
public static class Pasting
{
    /// <summary>Pastes some parts of a sequence; <paramref name="choices"/> say which point somebody chose for one, or that it is to be left open.</summary>
    /// <exception cref="InvalidOperationException">Nothing of that is there any more, or an output has no priority left; the message says which.</exception>
    public static Pasted Into(Project project, Sequence into, Sequence copied, IReadOnlyCollection<string> picked, IReadOnlyDictionary<RecordId, RecordId?> choices)
    {
        var blocks = copied.Blocks.Where(b => picked.Contains(b.Id)).ToList();
        var commands = copied.Commands.Where(c => picked.Contains($"o:{c.PointId}")).ToList();
        if (blocks.Count + commands.Count == 0) throw new InvalidOperationException("Nothing of what was copied is there any more. Copy it again.");
        var taken = into.Blocks.Select(b => b.Id).ToHashSet();
        var called = new Dictionary<string, string>();
        foreach (Block block in blocks)
        {
            string name = block.Id;
            for (int n = 2; !taken.Add(name); n++) name = $"{block.Id[..Math.Min(block.Id.Length, 56)]}-{n}";
            called[block.Id] = name;
        }
        var part = copied with { Blocks = blocks, Commands = commands, Clauses = [], Tests = [] };
        var matches = new Dictionary<RecordId, PasteMatch>();
        foreach (RecordId id in commands.Select(c => c.PointId).Concat(part.Sources().Select(s => s.Source).OfType<PointSource>().Select(p => p.PointId)))
        {
            if (matches.ContainsKey(id) || project.Find<Point>(id) is not { } point) continue;
            bool isCommanded = commands.Exists(c => c.PointId == id);
            var (match, why) = choices.TryGetValue(id, out RecordId? chosen) ? (chosen, chosen is null ? "left open" : "as chosen") : Match(project, copied, into, point);
            matches[id] = new PasteMatch(id, match is { } m && project.Find<Point>(m) is not null ? m : null, why, isCommanded);
        }
        int opened = 0;
        Source? Led(Source source)
        {
            Source? led = source is BlockSource b ? called.TryGetValue(b.BlockId, out string? now) ? b with { BlockId = now } : copied.Id == into.Id ? b : null
                : source is PointSource p ? matches.GetValueOrDefault(p.PointId)?.Is is { } point ? new PointSource(point) : null : source;
            if (led is null) opened++;
            return led;
        }
        List<Block> made = blocks.ConvertAll(b => b with { Id = called[b.Id], Inputs = b.Inputs.Select(i => (i.Key, Source: Led(i.Value))).Where(i => i.Source is not null).ToDictionary(i => i.Key, i => i.Source!) });
        var all = into.Commands.ToList();
        foreach (OutputCommand command in commands)
        {
            if (matches.GetValueOrDefault(command.PointId)?.Is is not { } output) continue;
            int at = all.FindIndex(c => c.PointId == output);
            OutputCommand there = at < 0 ? new OutputCommand { PointId = output } : all[at];
            foreach (Claim claim in command.Claims)
            {
                // What is claimed at its priority already is not pushed aside: it goes to the next that is free.
                var held = Checks.ClaimsOn(project, project.Find<Point>(output)!).Select(k => k.Priority).Concat(there.Claims.Select(k => k.Priority)).ToHashSet();
                int? priority = held.Contains(claim.Priority) ? Sequence.FreePriority(held) : claim.Priority;
                if (priority is not { } free) throw new InvalidOperationException($"Every priority of ‘{project.Find(output)?.Name}’ that logic should take is taken. Remove a claim there first, or copy without that output.");
                there = there with { Claims = [.. there.Claims, claim with { Priority = free, Source = claim.Source is null ? null : Led(claim.Source) }] };
            }
            if (at < 0) all.Add(there);
            else all[at] = there;
        }
        return new Pasted(into with { Blocks = [.. into.Blocks, .. made], Commands = all }, [.. matches.Values],
            [.. made.Select(b => b.Id), .. matches.Values.Where(m => m is { IsCommanded: true, Is: not null }).Select(m => $"o:{m.Is}")], opened);
    }

    /// <summary>The point that is to one sequence what a point is to another, and why; none where nothing is, or several are.</summary>
    private static (RecordId? Is, string Why) Match(Project project, Sequence copied, Sequence into, Point point)
    {
        if (copied.EquipmentId == into.EquipmentId) return (point.Id, "the same equipment");
        // From its equipment outwards: what belongs to the one's is looked for at the other's, of the same sort.
        var here = project.Lineage(copied.Id).Where(r => r is Equipment or Place).ToList();
        var there = project.Lineage(into.Id).Where(r => r is Equipment or Place).ToList();
        if (here.FirstOrDefault(r => r.Id == point.OwnerId) is not { } owner) return (point.Id, "shared");
        if (there.Any(r => r.Id == owner.Id)) return (point.Id, $"shared: it is of {owner.Name}");
        foreach (ProjectRecord other in there.Where(r => r is Equipment == owner is Equipment))
        {
            var like = project.Referrers<Point>(other.Id).Where(p => p.OwnerId == other.Id && IsLike(point, p)).OrderBy(p => p.Id).ToList();
            if (like.Find(p => p.Name.Equals(point.Name, StringComparison.OrdinalIgnoreCase)) is { } named) return (named.Id, $"of the same name, of {other.Name}");
            var tagged = point.Tags is null && point.TemplateTags is null ? [] : like.Where(p => SameTags(point, p)).ToList();
            if (tagged.Count == 1) return (tagged[0].Id, $"with the same tags, of {other.Name}");
            if (like.Count == 1) return (like[0].Id, $"the only such point of {other.Name}");
        }
        return (null, "nothing there is like it");
    }

    private static bool IsLike(Point one, Point other) => one.Role == other.Role && one.Kind == other.Kind && Unit.Find(one.Unit)?.Quantity == Unit.Find(other.Unit)?.Quantity && (one.Kind == PointKind.Analog || one.StateTexts.Count == other.StateTexts.Count);

    private static bool SameTags(Point one, Point other) => Keys(one).SetEquals(Keys(other));

    private static HashSet<string> Keys(Point point) => [.. (point.Tags?.Keys ?? []).Concat(point.TemplateTags?.Keys ?? [])];
}
