using LoftyWren.Core.Live;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Installation;
using LoftyWren.VirtualSite;

namespace LoftyWren.Server.Live;

/// <summary>The addresses under which live values are watched: a letter for what it is, a colon, and which one.</summary>
internal static class LiveAddress
{
    private delegate ILiveSource? Finding(SiteHost host, Site site, Project project, string which);

    private static readonly Dictionary<string, Finding> Sorts = new()
    {
        ["p"] = (host, _, _, which) => host.HomeOf(new RecordId(which))?.Engine?.SourceOf(new RecordId(which)),
        ["s"] = (_, site, _, which) => site.Controllers.Values.Select(c => c.Engine?.SourceOfSchedule(new RecordId(which))).FirstOrDefault(s => s is not null),
        ["b"] = (_, site, project, which) => which.Split('/') is [var sequence, var block, var pin] && project.Find<Sequence>(new RecordId(sequence)) is { ControllerId: { } on } && site.Controllers.TryGetValue(on, out var controller)
            ? controller.Engine?.SourceOfPin(new RecordId(sequence), block, pin) : null,
    };

    /// <summary>What stands behind an address now, or null. Only within a turn.</summary>
    public static ILiveSource? Find(SiteHost host, Site site, Project project, string address) =>
        address.IndexOf(':', StringComparison.Ordinal) is > 0 and var at && Sorts.TryGetValue(address[..at], out Finding? find) ? find(host, site, project, address[(at + 1)..]) : null;
}
