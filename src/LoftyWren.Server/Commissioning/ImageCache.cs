using LoftyWren.Core.Derivation;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;

namespace LoftyWren.Server.Commissioning;

/// <summary>Remembers how far each host's design is ahead of what it runs, until an edit touches what its image is built from.</summary>
public sealed class ImageCache
{
    private readonly Remembered<(string Hash, int Changes)> _known = new();
    private readonly Lock _turn = new();

    /// <summary>Follows the edits of a workspace.</summary>
    public ImageCache(Workspace workspace) => workspace.Changed += entry =>
    {
        lock (_turn) _known.Follow(workspace.Project, entry.Changes);
    };

    /// <summary>How many records differ between design and installed; null where nothing is.</summary>
    public int Changes(Project project, ProjectRecord host, Installed? installed, ILink link)
    {
        string hash = installed?.Hash ?? "";
        lock (_turn)
        {
            if (_known.TryGet(host.Id, out var known) && known.Hash == hash) return known.Changes;
        }
        IHostImage? old = ImageOf(installed, link);
        lock (_turn) return _known.Compute(project, host.Id, p => (hash, ImageComparison.Compare(old, HostKinds.Build(p, p.Find(host.Id)!)).Count)).Changes;
    }

    /// <summary>What runs on something installed, or null.</summary>
    public static IHostImage? ImageOf(Installed? installed, ILink link) => installed is { Runs: true } && link.ImageOf(installed.Id) is { } bytes ? HostKinds.Find(installed.Kind).Read(bytes) : null;
}
