using System.Globalization;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Projects;

/// <summary>Says in one sentence what a change set did: “Renamed room ‘Glaze store’ to ‘Glaze room’”.</summary>
public static class ChangeLabel
{
    /// <summary>The sentence for these changes.</summary>
    public static string Describe(Project before, Project after, IReadOnlyList<RecordChange> changes)
    {
        var added = changes.Where(c => c.Before is null).Select(c => c.After!).ToList();
        var removed = changes.Where(c => c.After is null).Select(c => c.Before!).ToList();
        var changed = changes.Where(c => c.Before is not null && c.After is not null).ToList();
        // What belongs to something else that comes or goes is said with that, not for itself.
        var addedIds = added.Select(r => r.Id).ToHashSet();
        var removedIds = removed.Select(r => r.Id).ToHashSet();
        var heads = removed.Where(r => !r.References().Any(x => x.Owning && removedIds.Contains(x.To))).ToList();
        var roots = added.Where(r => !r.References().Any(x => x.Owning && addedIds.Contains(x.To))).ToList();
        var parts = new List<string>();
        if (roots.Count == 1) parts.Add(Added(after, roots[0], added.Count - 1));
        else if (roots.Count > 1) parts.Add($"Added {Counted(roots)}{InCommon(after, roots)}");
        if (heads.Count == 1) parts.Add(Removed(before, heads[0], removed.Count - 1));
        else if (heads.Count > 1) parts.Add($"Removed {Counted(heads)}");
        if (changed.Count == 1) parts.Add(Changed(before, after, changed[0].Before!, changed[0].After!));
        else if (changed.Count > 1) parts.Add($"Changed {Counted(changed.Select(c => c.After!).ToList())}");
        if (parts.Count == 0) return "Changed nothing";
        return string.Join("; ", parts.Select((p, i) => i == 0 ? p : char.ToLowerInvariant(p[0]) + p[1..]));
    }

    private static string Added(Project after, ProjectRecord record, int more)
    {
        if (record is PointBinding binding)
            return $"Put ‘{after.Find(binding.PointId)?.Name}’ onto {after.Find(binding.HostId)?.Name} {binding.Where}";
        string where = record.ParentId is { } p && after.Find(p) is { } parent ? $" to ‘{parent.Name}’" : "";
        string tail = more > 0 ? $", with {more} record{(more == 1 ? "" : "s")} in it" : "";
        return $"Added {record.Noun} ‘{record.Name}’{where}{tail}";
    }

    private static string Removed(Project before, ProjectRecord record, int more)
    {
        if (record is PointBinding binding)
            return $"Took ‘{before.Find(binding.PointId)?.Name}’ off {before.Find(binding.HostId)?.Name} {binding.Where}";
        string where = record.ParentId is { } p && before.Find(p) is { } parent ? $" from ‘{parent.Name}’" : "";
        return $"Removed {record.Noun} ‘{record.Name}’{where}{(more > 0 ? $", with {more} record{(more == 1 ? "" : "s")} that belonged to it" : "")}";
    }

    private static string Changed(Project before, Project after, ProjectRecord old, ProjectRecord now)
    {
        if (now is PointBinding binding)
            return $"Moved ‘{after.Find(binding.PointId)?.Name}’ to {after.Find(binding.HostId)?.Name} {binding.Where}";
        if (old.Name != now.Name) return $"Renamed {now.Noun} ‘{old.Name}’ to ‘{now.Name}’";
        if (old.ParentId != now.ParentId && now.ParentId is { } to)
            return $"Moved {now.Noun} ‘{now.Name}’ from ‘{(old.ParentId is { } from ? before.Find(from)?.Name : "nowhere")}’ to ‘{after.Find(to)?.Name}’";
        return $"Changed {now.Noun} ‘{now.Name}’";
    }

    private static string Counted(IReadOnlyList<ProjectRecord> records) => string.Join(" and ", records
        .GroupBy(r => r.Noun)
        .Select(g => Count(g.Count(), g.Key)));

    /// <summary>A number of records of one noun: “1 room”, “3 rooms”, “12,000 points”.</summary>
    public static string Count(int count, string noun) => count == 1 ? $"1 {RecordKinds.NounOf(noun)?.One ?? noun}" : $"{count.ToString("N0", CultureInfo.InvariantCulture)} {Plural(noun)}";

    /// <summary>The plural of one of our nouns.</summary>
    public static string Plural(string noun) => RecordKinds.NounOf(noun)?.Plural ?? noun + "s";

    private static string InCommon(Project after, IReadOnlyList<ProjectRecord> records)
    {
        var parents = records.Select(r => r.ParentId).Distinct().Take(2).ToList();
        return parents.Count == 1 && parents[0] is { } only && after.Find(only) is { } parent ? $" to ‘{parent.Name}’" : "";
    }
}
