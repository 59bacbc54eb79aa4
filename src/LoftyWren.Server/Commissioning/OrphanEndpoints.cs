using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Commissioning;
using LoftyWren.Storage.History;
using LoftyWren.Storage.Projects;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Commissioning;

/// <summary>What is left over, and what controllers have and the project does not know.</summary>
public sealed record OrphanList(IReadOnlyList<Orphan> LeftOver, IReadOnlyList<UnknownRecord> Unknown);

/// <summary>Things that are left over, to be removed; and why.</summary>
public sealed record OrphanRemoval(IReadOnlyList<string> Keys, string Why);

/// <summary>Records that a controller has, to be taken into the project.</summary>
public sealed record TakeOverRequest(IReadOnlyList<RecordId>? Ids);

/// <summary>A point of a controller, to be taken for one that the project has.</summary>
public sealed record MapRequest(RecordId HostId, RecordId RecordId, RecordId To);

/// <summary>How the comparisons of one controller stand: when last, ms of site time, by how many records it differs (−1: it could not be read), since when without a break it has differed.</summary>
public sealed record ComparisonLine(RecordId HostId, string Name, string Path, KeptComparison? Last, long? DiffersSince);

/// <summary>All comparisons, and how often they are made by themselves, h of site time.</summary>
public sealed record ComparisonList(int Hours, long Now, IReadOnlyList<ComparisonLine> Lines);

/// <summary>How often all are compared, h of site time; 0 for never.</summary>
public sealed record CompareHours(int Hours);

/// <summary>Controllers to be compared now; none for all.</summary>
public sealed record CompareRequest(IReadOnlyList<RecordId> Hosts);

internal static class OrphanEndpoints
{
    private const int MostHours = 24 * 31;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/orphans", (Workspace workspace, ProjectStore past, IVirtualSite site, ImageCache images, HistoryStore history, Contacts contacts) => List(workspace.Project, past, site, images, history, contacts)).For(Role.Technician);
        api.MapPost("/orphans/remove", Results<Ok<OrphanList>, ProblemHttpResult> (OrphanRemoval request, HttpContext http, Workspace workspace, ProjectStore past, SiteServer server, ImageCache images, HistoryStore history, Contacts contacts, Live.Broadcaster broadcaster) =>
        {
            if (Reasons.Trouble(request.Why) is not null) return Problems.Refused("Say why in a few words (at most 200 characters); who removed this and why stays in the trail.");
            var there = List(workspace.Project, past, server.Link, images, history, contacts).LeftOver.ToDictionary(o => o.Key);
            if (request.Keys.FirstOrDefault(k => !there.ContainsKey(k)) is not null) return Problems.Refused("Something of the list is not left over any more. Look at the list again; nothing was removed.");
            foreach (Orphan orphan in request.Keys.Distinct().Select(k => there[k])) Remove(orphan, http.User.Identity!.Name!, request.Why.Trim(), server, history, contacts);
            broadcaster.TellEvents();
            return TypedResults.Ok(List(workspace.Project, past, server.Link, images, history, contacts));
        }).For(Role.Engineer);
        api.MapPost("/orphans/map", Results<Ok<ChangeAnswer>, ProblemHttpResult> (MapRequest request, HttpContext http, Workspace workspace, IVirtualSite site, ImageCache images) =>
        {
            Project project = workspace.Project;
            if (CommissioningEndpoints.Find(workspace, request.HostId.Value) is not { } host || images.ImageOf(site.Find(host.Id), site) is not { } image) return Problems.Missing("controller");
            try
            {
                return ProjectEndpoints.Answer(workspace.Apply(Orphans.Mapped(project, host.Id, image, request.RecordId, request.To), http.User.Identity!.Name!, $"Took a point of {host.Name} for ‘{project.Find(request.To)?.Name}’"));
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
        api.MapPost("/commission/{id}/take-over", async Task<Results<Ok<ChangeAnswer>, ProblemHttpResult>> (string id, TakeOverRequest request, HttpContext http, Workspace workspace, Comparing comparing) =>
        {
            if (CommissioningEndpoints.Find(workspace, id) is not { } host) return Problems.Missing("controller");
            try
            {
                var (image, _) = await comparing.ReadBack(host, http.RequestAborted);
                Project project = workspace.Project;
                IReadOnlyList<Edit> edits = TakeOver.Edits(project, host, image, request.Ids?.ToHashSet());
                if (edits.Count == 0) return Problems.Refused($"Nothing of what was chosen differs on {host.Name} any more, or none of it can be taken over. Read it back again.");
                return ProjectEndpoints.Answer(workspace.Apply(edits, http.User.Identity!.Name!, $"Took over {(request.Ids is null ? "all" : edits.Count)} record{(edits.Count == 1 ? "" : "s")} from {host.Name}", risky: request.Ids is null));
            }
            catch (Exception e) when (e is InvalidOperationException or Protocols.Contact.ContactLostException)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
        api.MapGet("/comparisons", (Workspace workspace, Contacts contacts, Comparing comparing, IVirtualSite site) => Comparisons(workspace.Project, contacts, comparing, site)).For(Role.Viewer);
        api.MapGet("/comparisons/{id}", (string id, Contacts contacts) => contacts.Store.Comparisons(id)).For(Role.Viewer);
        api.MapPost("/comparisons/hours", Results<NoContent, ProblemHttpResult> (CompareHours request, HttpContext http, Comparing comparing, IVirtualSite site) =>
        {
            if (request.Hours is < 0 or > MostHours) return Problems.Refused($"They are compared every 1 to {MostHours} h of site time, or never (0).");
            comparing.Hours = request.Hours;
            site.Trail(http.User.Identity!.Name!, request.Hours == 0 ? "Controllers are not compared by themselves any more" : $"Controllers are compared every {request.Hours} h", null);
            return TypedResults.NoContent();
        }).For(Role.Technician);
        api.MapPost("/comparisons", (CompareRequest request, HttpContext http, JobRunner jobs) => jobs.Start(Comparing.CompareJob, request.Hosts.Count == 0 ? "Compare all controllers" : $"Compare {request.Hosts.Count} controller{(request.Hosts.Count == 1 ? "" : "s")}", http.User.Identity!.Name!, new CompareOrder(request.Hosts))).For(Role.Technician);
    }

    private static OrphanList List(Project project, ProjectStore past, IVirtualSite site, ImageCache images, HistoryStore history, Contacts contacts)
    {
        var installed = site.AllInstalled().ToDictionary(i => i.Id, i => images.ImageOf(i, site));
        return new OrphanList(Orphans.Of(project, installed, history.Logs().Where(l => project.Find(l) is null).Select(l => (l, past.PastOf(l, 1).FirstOrDefault()?.Changes.FirstOrDefault(c => c.Id == l) is { } c ? (c.Before ?? c.After)?.Name : null)), history.Alarms(false).Select(a => new OpenAlarm(a.AlarmId, a.Name)), site.HeldInputs(), contacts.Store.All().Select(c => new RecordId(c.HostId))), Orphans.Unknown(project, installed));
    }

    private static void Remove(Orphan orphan, string who, string why, SiteServer server, HistoryStore history, Contacts contacts)
    {
        string said = $"Removed what was left over, {orphan.Name}: {why}";
        IVirtualSite site = server.Link;
        switch (orphan.Sort)
        {
            case OrphanSort.Log:
                history.Drop(orphan.Id);
                site.Trail(who, said, orphan.Id);
                break;
            case OrphanSort.Alarm:
                history.Close(orphan.Id, who, site.Pulse().Now, "nobody watches it any more");
                site.Trail(who, said, orphan.Id);
                break;
            case OrphanSort.Hold:
                string terminal = orphan.Key[(orphan.Key.LastIndexOf('|') + 1)..];
                site.ReleaseInput(who, said, orphan.Id, terminal, orphan.Id);
                break;
            case OrphanSort.Connection:
                contacts.Forget(orphan.Id);
                site.Trail(who, said, orphan.Id);
                break;
            default:
                site.TakeDown(who, said, orphan.Id);
                break;
        }
    }

    private static ComparisonList Comparisons(Project project, Contacts contacts, Comparing comparing, IVirtualSite site)
    {
        var last = contacts.Store.Comparisons(null).ToDictionary(c => c.HostId);
        var since = contacts.Store.DiffersSince();
        return new ComparisonList(comparing.Hours, site.Clock().Now, [.. comparing.Hosts().Select(h => new ComparisonLine(h.Id, h.Name, project.PathOf(h.Id), last.GetValueOrDefault(h.Id.Value), since.TryGetValue(h.Id.Value, out long at) ? at : null))]);
    }
}
