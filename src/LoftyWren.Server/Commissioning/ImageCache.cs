using LoftyWren.Core.Derivation;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Server.Projects;
using LoftyWren.VirtualSite.Controllers;

namespace LoftyWren.Server.Commissioning;

/// <summary>Remembers how far each controller's design is ahead of what it runs, until an edit touches what its image is built from.</summary>
public sealed class ImageCache
{
    private readonly Remembered<(string Hash, int Changes)> _known = new();
    private readonly Lock _turn = new();

    /// <summary>Follows the edits of a workspace.</summary>
    public ImageCache(Workspace workspace) => workspace.Changed += entry =>
    {
        lock (_turn) _known.Follow(entry.Changes);
    };

    /// <summary>How many records differ between design and installed.</summary>
    public int Changes(Project project, Controller controller, InstalledController? installed)
    {
        lock (_turn)
        {
            string hash = installed?.Hash ?? "";
            if (_known.TryGet(controller.Id, out var known) && known.Hash == hash) return known.Changes;
            ControllerImage? old = installed?.ImageBytes is { } bytes ? ControllerImage.FromBytes(bytes) : null;
            return _known.Compute(project, controller.Id, p => (hash, ImageComparison.Compare(old, ControllerImage.Build(p, p.Find<Controller>(controller.Id)!)).Count)).Changes;
        }
    }
}
