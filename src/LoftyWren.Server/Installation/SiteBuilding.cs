using LoftyWren.Core.Names;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using LoftyWren.VirtualSite.Plant;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Installation;

/// <summary>One room, machine or wire that differs between the site as it stands and as it is drawn: what is done with it, and where: the path of a room or machine, the host and terminal of a wire.</summary>
public sealed record BuildLine(string Sort, BuildStep Step, RecordId? Id, string Name, string Where, RecordId? HostId, string? Terminal, string? Detail);

/// <summary>What building the site would do: how many of each sort in words, the first of all lines, and whether there are more.</summary>
public sealed record BuildReview(string Counted, IReadOnlyList<BuildLine> Lines, bool IsCut, string Sentence);

/// <summary>What building the site would do, worked out once for each state of the project and of the site, whoever asks.</summary>
public sealed class BuildReviews(Workspace workspace, IVirtualSite site)
{
    private readonly Lock _turn = new();
    private (Project? Project, long Happenings, BuildReview? Review) _last;

    /// <summary>As all stands now.</summary>
    public BuildReview Now()
    {
        lock (_turn)
        {
            Project project = workspace.Project;
            long happenings = site.Pulse().Happenings;
            if (ReferenceEquals(_last.Project, project) && _last.Happenings == happenings) return _last.Review!;
            SitePlan built = site.Plan();
            BuildReview review = SiteBuilding.Review(project, built, SiteBuilder.Build(project, built));
            _last = (project, happenings, review);
            return review;
        }
    }
}

/// <summary>Building the virtual site as it is drawn: an act of its own, reviewed before, that touches only what differs.</summary>
public static class SiteBuilding
{
    private const int Shown = 2000;

    internal static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/site/build", (BuildReviews reviews) => reviews.Now()).For(Role.Viewer);
        api.MapPost("/site/build", Results<Ok<BuildReview>, ProblemHttpResult> (HttpContext http, Workspace workspace, SiteServer server, BuildReviews reviews) =>
        {
            Project project = workspace.Project;
            SitePlan built = server.Link.Plan(), drawn = SiteBuilder.Build(project, built);
            BuildReview review = Review(project, built, drawn);
            if (review.Lines.Count == 0) return Problems.Refused("The virtual site is built as it is drawn already.");
            try
            {
                server.Link.Build(http.User.Identity!.Name!, $"Built the virtual site as drawn: {review.Counted}", drawn, null);
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
            server.Collect();
            return TypedResults.Ok(reviews.Now());
        }).For(Role.Technician);
    }

    /// <summary>Builds what one controller or device is wired to, if it is not built so already: its wires, and the rooms and machines as they are drawn where a wire leads to one that does not stand yet. All other wires stay.</summary>
    public static void BuildFor(Project project, ProjectRecord host, IVirtualSite site, string who)
    {
        var there = site.WiresOf(host.Id);
        IReadOnlyList<Wire> wires = [.. SiteBuilder.WiresOf(project, host.Id, there)];
        if (there.SequenceEqual(wires)) return;
        // A wire that only stands for another point now, or is called otherwise, is noted, not built.
        string what = SiteDifferences.OfWires(there, wires).Count > 0 ? $"Built the wires of {host.Name}" : $"Noted what the wires of {host.Name} are for";
        if (site.Rewire(who, what, host.Id, wires)) return;
        site.Build(who, $"{what}, with the rooms and machines they lead to", SiteBuilder.Build(project, site.Plan()), [host.Id]);
    }

    internal static BuildLine Line(Project project, SiteDifference d) => new(d.Sort, d.Step, d.Id, d.Name, d.HostId is { } host ? $"{project.Find(host)?.Name} · {d.Terminal}" : d.Id is { } id ? project.PathOf(id) : "", d.HostId, d.Terminal, d.Detail);

    internal static BuildReview Review(Project project, SitePlan built, SitePlan drawn)
    {
        var all = SiteDifferences.Between(built, drawn);
        string counted = string.Join(", ", all.GroupBy(d => d.Sort).Select(sort => $"{sort.Count()} {sort.Key}{(sort.Count() == 1 ? "" : "s")}"));
        // Each sort by place and name, as people look for them.
        IEnumerable<BuildLine> lines = all.Select(d => Line(project, d)).GroupBy(l => l.Sort).SelectMany(g => g.OrderBy(l => l.Where, NaturalOrder.Names).ThenBy(l => l.Name, NaturalOrder.Names));
        return new BuildReview(counted, [.. lines.Take(Shown)], all.Count > Shown, all.Count == 0 ? "The virtual site stands as it is drawn." : $"The drawing is ahead of the virtual site by {counted}.");
    }
}
