using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Images;

/// <summary>One record in which what runs differs from the design: what taking it over into the project would do, or why that cannot be.</summary>
/// <param name="Difference">Design against what runs, as a send would see it.</param>
/// <param name="Does">What taking it over does, in words.</param>
/// <param name="Refusal">Why it cannot be taken over here, or null.</param>
public sealed record TakeOverLine(RecordDifference Difference, string Does, string? Refusal);

/// <summary>
/// What runs on a controller taken over into the project, record by record: the way back from <see cref="ControllerImage.Build"/>.
/// What no controller carries of a record (its tags, the clauses it meets, the drives of other controllers' points) stays as designed.
/// </summary>
public static class TakeOver
{
    /// <summary>All in which the two differ, the other way round than a send sees it.</summary>
    public static IReadOnlyList<TakeOverLine> Lines(Project project, ProjectRecord host, IHostImage installed)
    {
        IHostImage design = HostKinds.Build(project, host);
        return [.. ImageComparison.Compare(installed, design).Where(d => !IsFact(d, host, installed)).Select(d => new TakeOverLine(d, Says(d.Kind), Refusal(project, host, installed, d.Id)))];
    }

    /// <summary>The edits that take some records over, or all; those of a record that cannot be are left out.</summary>
    public static IReadOnlyList<Edit> Edits(Project project, ProjectRecord host, IHostImage installed, IReadOnlySet<RecordId>? ids)
    {
        var chosen = Lines(project, host, installed).Where(l => l.Refusal is null && (ids is null || ids.Contains(l.Difference.Id))).Select(l => l.Difference).ToList();
        var there = installed.Records.Prepend(installed.Host).ToDictionary(r => r.Id);
        List<Edit> puts = [.. chosen.Where(d => there.ContainsKey(d.Id)).Select(d => Edit.Of(Back(project, there[d.Id], there), project.FindEntry(d.Id)?.Revision ?? 0))];
        var put = puts.Select(e => e.Put!.Id).ToHashSet();
        // What is only designed goes; what referred to it and is put back refers to it no more of itself.
        Removal removal = Removal.Of(project, chosen.Where(d => !there.ContainsKey(d.Id)).Select(d => d.Id));
        return [.. removal.Edits.Where(e => !put.Contains(e.Put?.Id ?? e.Remove!.Value)), .. puts];
    }

    private static bool IsFact(RecordDifference difference, ProjectRecord host, IHostImage installed) => difference.Id == host.Id && difference.Noun != host.Noun && installed.Facts.Any(f => f.Noun == difference.Noun);

    private static string Says(DifferenceKind kind) => kind switch
    {
        DifferenceKind.Added => "goes from the project: it does not run there",
        DifferenceKind.Removed => "comes into the project, as it runs",
        _ => "becomes in the project what runs",
    };

    private static string? Refusal(Project project, ProjectRecord host, IHostImage installed, RecordId id)
    {
        ProjectRecord? there = installed.Records.FirstOrDefault(r => r.Id == id);
        if ((project.Find(id) ?? there) is Point && project.BindingOf(id) is { } binding && binding.HostId != host.Id) return $"It is a point of {project.Find(binding.HostId)?.Name}. Take it over from there.";
        if (there is not null && project.Find(id) is null && there.ParentId is { } parent && project.Find(parent) is null && installed.Records.All(r => r.Id != parent)) return "What it belongs to is not in the project any more. Make that first.";
        return null;
    }

    /// <summary>A record as it runs, with what no controller carries as it is designed.</summary>
    private static ProjectRecord Back(Project project, ProjectRecord runs, Dictionary<RecordId, ProjectRecord> there) =>
        project.Find(runs.Id) is { } design && design.GetType() == runs.GetType() ? RecordKinds.Of(runs).TakeBack(runs, design, there.ContainsKey) : runs;
}
