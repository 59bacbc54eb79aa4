using LoftyWren.Core.Findings;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Installation;

namespace LoftyWren.Server.Supervision;

/// <summary>What there is to see to on the site itself, whatever the project says: inputs that somebody simulates. They go as soon as those are let go, and cannot be silenced.</summary>
internal static class SiteFindings
{
    /// <summary>All of them; none while the site is not heard.</summary>
    public static IReadOnlyList<Finding> Of(Project project, ILink link) => Ask(link, l => (IReadOnlyList<Finding>)
    [
        .. l.AllHeld().Where(h => h.IsInput && project.Find(h.PointId) is not null).Select(h => new Finding($"simulated|{h.PointId}", "simulated", h.Until is null ? Severity.High : Severity.Medium, h.PointId,
            $"‘{h.Name}’ is simulated: {h.Says}, {(h.Until is null ? "until somebody releases it" : "for a time")}.",
            $"{h.Who} put it in place of its sensor: “{h.Why}”. What follows from it is no more real than it is. Release it under Operate › Held.") { IsOfSite = true }),
    ], []);

    /// <summary>How many there are.</summary>
    public static int Count(IVirtualSite link) => Ask(link, _ => link.HeldInputs().Count, 0);

    /// <summary>Those on one record.</summary>
    public static IEnumerable<Finding> On(Project project, ILink link, RecordId id) => Of(project, link).Where(f => f.RecordId == id);

    private static T Ask<T>(ILink link, Func<ILink, T> what, T otherwise)
    {
        try
        {
            return what(link);
        }
        catch (LinkException)
        {
            return otherwise;
        }
    }
}
