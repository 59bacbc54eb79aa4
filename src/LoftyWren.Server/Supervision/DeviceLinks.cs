using LoftyWren.Core.Hardware;
using LoftyWren.Core.Records;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Supervision;

/// <summary>The links to single controllers: heard; late, while a silence does not count yet; silent once it has lasted as long as the controller may be unheard.</summary>
public sealed class DeviceLinks(Workspace workspace, SiteServer site)
{
    /// <summary>How the link to a host stands at a moment of site time, ms.</summary>
    public LinkState StateOf(RecordId host, long? silentSince, long now)
    {
        if (silentSince is not { } since) return LinkState.Heard;
        double may = workspace.Project.Find<Controller>(host)?.SilentAfterSeconds ?? 0;
        return now - since < may * 1000 ? LinkState.Late : LinkState.Silent;
    }

    /// <summary>The site clock, with how many are silent by now.</summary>
    public ClockView Clock()
    {
        ClockView clock = site.Clock();
        if (clock.Link != LinkState.Heard) return clock;
        try
        {
            return clock with { Silent = site.Link.Unheard().Count(s => StateOf(s.HostId, s.Since, clock.Now) == LinkState.Silent) };
        }
        catch (LinkException)
        {
            return clock;
        }
    }
}
