using LoftyWren.Core.Images;
using LoftyWren.Core.Names;
using LoftyWren.Core.OlderPrograms;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Templates;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Libraries;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Sequences;

/// <summary>One line of a conversion's report with the name and place of its sequence.</summary>
public sealed record ConversionLineView(ConversionSort Sort, RecordId SequenceId, string Sequence, string Path, string What, string Why);

/// <summary>A controller that still runs older programs whose design was converted: what has to be done before the design may be sent; null when it may be.</summary>
public sealed record ConvertedHost(RecordId Id, string Name, IReadOnlyList<string> Sequences, string? MustBefore);

/// <summary>The older programs of a project: how many sequences a conversion would change, what it would say, and the controllers that wait for one that was made.</summary>
public sealed record ConversionView(int Sequences, IReadOnlyList<ConversionLineView> Lines, IReadOnlyList<ConvertedHost> Waiting);

/// <summary>Which sequences to convert; null for all.</summary>
public sealed record ConversionRequest(IReadOnlyList<RecordId>? Ids = null);

internal static class ConversionEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/conversion", (Workspace workspace, Shelf shelf, IVirtualSite site, ImageCache images, DayRehearsals days) =>
        {
            Project project = workspace.Project;
            ConversionPlan plan = Plan(project, shelf, null);
            var installed = site.AllInstalled().ToDictionary(i => i.Id);
            List<ConvertedHost> waiting = [.. HostKinds.HostsOf(project).Select(h => (Host: h, Names: days.Converted(h, installed.GetValueOrDefault(h.Id)))).Where(h => h.Names.Count > 0)
                .Select(h => new ConvertedHost(h.Host.Id, h.Host.Name, h.Names, days.MustLive(h.Host))).OrderBy(h => h.Name, NaturalOrder.Names)];
            return new ConversionView(plan.Sequences.Count, [.. plan.Lines.Select(l => new ConversionLineView(l.Sort, l.SequenceId, project.Find(l.SequenceId)!.Name, project.PathOf(l.SequenceId), l.What, l.Why))], waiting);
        }).For(Role.Viewer);
        api.MapPost("/conversion", Results<Ok<ChangeAnswer>, ProblemHttpResult> (ConversionRequest request, HttpContext http, Workspace workspace, Shelf shelf) =>
        {
            Project project = workspace.Project;
            if (request.Ids?.Where(i => project.Find<Sequence>(i) is not { } s || !ProgramConversion.IsOlder(s)).Select(i => (RecordId?)i).FirstOrDefault() is { } other) return Problems.Refused($"‘{project.Find(other)?.Name ?? other.Value}’ is no sequence of an older version. Look at the list again; nothing was converted.");
            ConversionPlan plan = Plan(project, shelf, request.Ids?.ToHashSet());
            if (plan.Sequences.Count == 0) return Problems.Refused("There is nothing that could be converted.");
            // The state before is kept under a name, and in a backup.
            return ProjectEndpoints.Answer(workspace.Apply(plan.Edits(project), http.User.Identity!.Name!, $"Converted {plan.Sequences.Count} sequence{(plan.Sequences.Count == 1 ? "" : "s")} of an older version", risky: true));
        }).For(Role.Engineer);
    }

    private static ConversionPlan Plan(Project project, Shelf shelf, IReadOnlySet<RecordId>? only) => ProgramConversion.Of(project, equipment => Departures(project, shelf, equipment), only);

    private static IEnumerable<string> Departures(Project project, Shelf shelf, Equipment equipment)
    {
        if (equipment.Placed is not { } placed) yield break;
        if (shelf.Placed(placed.TemplateId, placed.Revision) is not { } template)
        {
            yield return $"‘{equipment.Name}’ was placed from ‘{placed.TemplateName}’, which is in no library here: what was changed in it since cannot be told.";
            yield break;
        }
        foreach (PlacementDifference d in Placing.Compare(project, equipment, template, template))
            yield return $"‘{equipment.Name}’ departs from ‘{placed.TemplateName}’: {d.Words} of {d.Noun} ‘{d.Name}’ {(d.Here is null ? "is missing" : $"is {d.Here}")}{(d.Template is null ? "" : $" in place of {d.Template}")}.";
    }
}
