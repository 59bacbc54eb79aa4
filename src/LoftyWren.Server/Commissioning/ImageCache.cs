using LoftyWren.Core.Alarms;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Trends;
using LoftyWren.Server.Projects;
using LoftyWren.VirtualSite.Controllers;

namespace LoftyWren.Server.Commissioning;

/// <summary>Remembers how far each controller's design is ahead; an edit makes it forget only the controllers whose images it could have touched.</summary>
public sealed class ImageCache
{
    private readonly Dictionary<RecordId, (string Hash, int Changes)> _known = [];
    private readonly Lock _turn = new();

    /// <summary>Follows the edits of a workspace.</summary>
    public ImageCache(Workspace workspace) => workspace.Changed += entry =>
    {
        lock (_turn)
        {
            foreach (RecordChange change in entry.Changes)
            {
                foreach (ProjectRecord? side in new[] { change.Before, change.After }) Forget(workspace.Project, side);
            }
        }
    };

    /// <summary>How many records differ between design and installed.</summary>
    public int Changes(Project project, Controller controller, InstalledController? installed)
    {
        lock (_turn)
        {
            string hash = installed?.Hash ?? "";
            if (_known.TryGetValue(controller.Id, out var known) && known.Hash == hash) return known.Changes;
            ControllerImage? old = installed?.ImageBytes is { } bytes ? ControllerImage.FromBytes(bytes) : null;
            int changes = ImageComparison.Compare(old, ControllerImage.Build(project, controller)).Count;
            _known[controller.Id] = (hash, changes);
            return changes;
        }
    }

    private void Forget(Project project, ProjectRecord? record)
    {
        switch (record)
        {
            case Controller controller:
                _known.Remove(controller.Id);
                break;
            case Fitting fitting:
                _known.Remove(fitting.ControllerId);
                ForgetPoint(project, fitting.PointId);
                break;
            case Sequence sequence:
                if (sequence.ControllerId is { } on) _known.Remove(on);
                break;
            case Point point:
                ForgetPoint(project, point.Id);
                break;
            case TrendLog trend:
                ForgetPoint(project, trend.PointId);
                break;
            case AlarmRule alarm:
                ForgetPoint(project, alarm.PointId);
                break;
            case Schedule schedule:
                foreach (Drive drive in schedule.Drives) ForgetPoint(project, drive.PointId);
                foreach (Sequence reader in project.Referrers<Sequence>(schedule.Id)) Forget(project, reader);
                break;
            case Place { Kind: PlaceKind.Site }:
                _known.Clear();
                break;
        }
    }

    private void ForgetPoint(Project project, RecordId point)
    {
        foreach (ProjectRecord referrer in project.Referrers(point))
        {
            if (referrer is Fitting fitting) _known.Remove(fitting.ControllerId);
            else if (referrer is Sequence { ControllerId: { } on }) _known.Remove(on);
        }
    }
}
