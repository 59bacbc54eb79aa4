using LoftyWren.Core.Derivation;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Server.Projects;

/// <summary>Something of the open project that is computed for a record when somebody asks, and kept until an edit touches what it rests on.</summary>
/// <typeparam name="T">What is computed.</typeparam>
public sealed class Kept<T>
{
    private readonly Workspace _workspace;
    private readonly Func<Project, RecordId, T> _compute;
    private readonly Remembered<T> _known = new();
    private readonly Lock _turn = new();

    /// <summary>Follows the edits of a workspace.</summary>
    public Kept(Workspace workspace, Func<Project, RecordId, T> compute)
    {
        (_workspace, _compute) = (workspace, compute);
        workspace.Changed += entry =>
        {
            lock (_turn) _known.Follow(workspace.Project, entry.Changes);
        };
    }

    /// <summary>Of a record, as the project is now.</summary>
    public T Of(RecordId id)
    {
        // Always of the newest state, whatever whoever asks holds in his hands: what is kept must not be older than what was followed.
        lock (_turn) return _known.TryGet(id, out T? known) ? known : _known.Compute(_workspace.Project, id, project => _compute(project, id));
    }
}
