using System.Runtime.CompilerServices;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Names;

/// <summary>
/// Finds what a name in a field means: a record of a sort that belongs to the same, then one in the same room, then the only
/// one of that name in the project. Names of the whole project are looked up in an index that is made once for a state of it.
/// </summary>
public static class NearestNamed
{
    private static readonly ConditionalWeakTable<Project, Dictionary<string, List<ProjectRecord>>> Indexes = [];

    /// <summary>The record meant, or null with a sentence that says why none is.</summary>
    /// <param name="project">Where to look.</param>
    /// <param name="near">The record whose field it is.</param>
    /// <param name="text">A name, letter case ignored, or an id.</param>
    /// <param name="noun">What is looked for, in words.</param>
    /// <param name="far">Whether one outside the room will do.</param>
    /// <param name="refusal">Why none is meant.</param>
    public static T? Find<T>(Project project, ProjectRecord near, string text, string noun, bool far, out string? refusal)
        where T : ProjectRecord
    {
        refusal = null;
        if (RecordId.IsValid(text) && project.Find<T>(new RecordId(text)) is { } byId) return byId;
        bool Is(ProjectRecord record) => record.Id != near.Id && record.Name.Equals(text, StringComparison.OrdinalIgnoreCase);
        // What is near is looked through; only what may be anywhere needs all names.
        var best = near.ParentId is { } owner ? project.ReferrersOf(typeof(T), owner).Where(r => r.ParentId == owner && Is(r)).ToList() : [];
        if (best.Count == 0 && PlaceOf(project, near) is { } place) best = [.. project.Referrers<Equipment>(place).Where(e => e.PlaceId == place).Select(e => e.Id).Append(place).SelectMany(at => project.ReferrersOf(typeof(T), at).Where(r => r.ParentId == at)).Where(Is).Distinct()];
        if (best.Count == 0 && far) best = [.. Named(project, text).Where(r => r is T && Is(r))];
        if (best.Count == 1) return (T)best[0];
        refusal = best.Count > 1 ? $"There are several {Plural(noun)} called ‘{text}’ as near to ‘{near.Name}’. Write the id of the one that is meant."
            : far ? $"There is no {noun} ‘{text}’ in the project. Write its name, or its id."
            : $"There is no {noun} ‘{text}’ beside ‘{near.Name}’ or in its room. Write its name there, or its id.";
        return null;
    }

    /// <summary>What <see cref="Find"/> reads back as this record: its name where that is enough, else its id.</summary>
    public static string Write<T>(Project project, ProjectRecord near, RecordId to, bool far)
        where T : ProjectRecord =>
        project.Find(to) is { } other && Find<T>(project, near, other.Name, "", far, out _)?.Id == to ? other.Name : to.Value;

    private static string Plural(string noun) => RecordKinds.NounOf(noun)?.Plural ?? noun + "s";

    private static RecordId? PlaceOf(Project project, ProjectRecord record)
    {
        for (RecordId? up = record is Place ? record.Id : record.ParentId; up is { } id && project.Find(id) is { } at; up = at.ParentId)
        {
            if (at is Place) return at.Id;
        }
        return null;
    }

    /// <summary>All records of a name, letter case ignored.</summary>
    public static IReadOnlyList<ProjectRecord> Named(Project project, string name)
    {
        // The state that a whole list was read into is asked thousands of times, so that one pass over its names pays.
        var index = Indexes.GetValue(project, static p =>
        {
            var all = new Dictionary<string, List<ProjectRecord>>(StringComparer.OrdinalIgnoreCase);
            foreach (ProjectRecord record in p.Records)
            {
                if (!all.TryGetValue(record.Name, out var list)) all[record.Name] = list = [];
                list.Add(record);
            }
            return all;
        });
        return index.GetValueOrDefault(name) ?? [];
    }
}
