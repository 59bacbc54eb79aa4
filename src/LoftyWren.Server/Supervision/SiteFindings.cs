using LoftyWren.Core.Findings;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Server.Supervision;

/// <summary>What there is to see to on the site itself, whatever the project says: inputs that somebody simulates. They go as soon as those are let go, and cannot be silenced.</summary>
internal static class SiteFindings
{
    /// <summary>All of them, as far as the site was heard last.</summary>
    public static IEnumerable<Finding> Of(Project project, SiteServer site) => site.Simulated.Where(h => project.Find(h.PointId) is not null).Select(Say);

    /// <summary>Those on one record.</summary>
    public static IEnumerable<Finding> On(RecordId id, SiteServer site) => site.Simulated.Where(h => h.PointId == id).Select(Say);

    private static Finding Say(Held held) => new($"simulated|{held.PointId}", "simulated", held.Until is null ? Severity.High : Severity.Medium, held.PointId,
        $"‘{held.Name}’ is simulated: {held.Says}, {(held.Until is null ? "until somebody releases it" : "for a time")}.",
        $"{held.Who} put it in place of its sensor: “{held.Why}”. What follows from it is no more real than it is. Release it under Operate › Held.")
    { IsOfSite = true };
}
