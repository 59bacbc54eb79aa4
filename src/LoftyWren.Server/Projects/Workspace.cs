using LoftyWren.Core.Findings;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Search;
using LoftyWren.Core.Tags;
using LoftyWren.Storage;
using LoftyWren.Storage.Projects;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Server.Projects;

/// <summary>The open project: one at a time may change it; everybody may read the last whole state without waiting.</summary>
public sealed class Workspace
{
    private readonly ProjectStore _store;
    private readonly TimeProvider _clock;
    private readonly Lock _turn = new();
    private readonly Dictionary<string, (Stack<long> Undo, Stack<long> Redo)> _stacks = new(StringComparer.OrdinalIgnoreCase);
    private const int LargeEdit = 50, HugeEdit = 1000;
    private volatile State _state;
    private DateTime _snapshotDay;

    /// <summary>Opens the project of a store.</summary>
    public Workspace(ProjectStore store, TimeProvider clock)
    {
        _store = store;
        _clock = clock;
        Project project = store.Load();
        _state = new State(project, FindingsIndex.Full(project), TagIndex.Full(project));
        Finder.Fill(project);
    }

    private sealed record State(Project Project, FindingsIndex Findings, TagIndex Tags);

    /// <summary>The project as it is.</summary>
    public Project Project => _state.Project;

    /// <summary>Its findings.</summary>
    public FindingsIndex Findings => _state.Findings;

    /// <summary>The tags of its records.</summary>
    public TagIndex Tags => _state.Tags;

    /// <summary>The search over it.</summary>
    public Finder Finder { get; } = new();

    /// <summary>The store, for the journal.</summary>
    public ProjectStore Store => _store;

    /// <summary>Told after each accepted change set, when it is on disk.</summary>
    public event Action<JournalEntry>? Changed;

    /// <summary>Applies a change set: validated, written, then shown to all. Before a large or risky one the state is named, and before a risky or huge one the database is backed up.</summary>
    /// <exception cref="StorageException">It could not be written, and nothing was changed.</exception>
    public ChangeOutcome Apply(IReadOnlyList<Edit> edits, string author, string? label = null, bool risky = false, PlannedOutcome? planned = null) => Apply(edits, author, label, JournalKind.Edit, null, risky, planned);

    /// <summary>Applies edits that are worked out from the project as it is in this turn, so that nobody's edit falls between.</summary>
    public ChangeOutcome Apply(Func<Project, IReadOnlyList<Edit>> edits, string author, string label, bool risky = false)
    {
        lock (_turn) return Apply(edits(Project), author, label, risky);
    }

    /// <summary>Takes back the author's last edit that is not taken back yet.</summary>
    public ChangeOutcome Undo(string author)
    {
        lock (_turn)
        {
            var (undo, _) = Stacks(author);
            if (!undo.TryPeek(out long revision)) return Refuse("You have nothing to undo.");
            return TakeBack(revision, author, JournalKind.Undo);
        }
    }

    /// <summary>Makes the author's last undone edit again.</summary>
    public ChangeOutcome Redo(string author)
    {
        lock (_turn)
        {
            var (_, redo) = Stacks(author);
            if (!redo.TryPeek(out long revision)) return Refuse("You have nothing to redo.");
            return TakeBack(revision, author, JournalKind.Redo);
        }
    }

    /// <summary>Takes back any entry of the history, as a new edit of whoever asks.</summary>
    public ChangeOutcome UndoEntry(long revision, string author)
    {
        lock (_turn) return TakeBack(revision, author, JournalKind.Edit);
    }

    /// <summary>What the author's next undo and redo would take, as labels; null for none.</summary>
    public (string? Undo, string? Redo) Next(string author)
    {
        lock (_turn)
        {
            var (undo, redo) = Stacks(author);
            return (undo.TryPeek(out long u) ? _store.LabelOf(u) : null, redo.TryPeek(out long r) ? _store.LabelOf(r) : null);
        }
    }

    /// <summary>The project as it was at a revision.</summary>
    public Project At(long revision) => revision >= Project.Revision ? Project : Differences.Before(Project, revision, _store.Above(revision));

    /// <summary>Names the present revision.</summary>
    public void Snapshot(string name, string author, bool automatic = false) => _store.AddSnapshot(name, _clock.GetUtcNow().ToUnixTimeMilliseconds(), author, Project.Revision, automatic);

    /// <summary>Before a large or risky edit and before the first of a day the state is named, so that it can be come back to by one choice.</summary>
    private void SnapshotBefore(bool isLarge, string author, string label)
    {
        if (Project.Revision == 0) return;
        DateTimeOffset now = _clock.GetUtcNow();
        if (isLarge) Snapshot("Before: " + label[..Math.Min(110, label.Length)], author, automatic: true);
        else if (_store.Snapshots() is var all && !all.Any(s => DateTimeOffset.FromUnixTimeMilliseconds(s.AtMilliseconds).Date == now.UtcDateTime.Date)) Snapshot($"Start of {now:yyyy-MM-dd}", "Lofty Wren", automatic: true);
        _snapshotDay = now.UtcDateTime.Date;
    }

    private ChangeOutcome Apply(IReadOnlyList<Edit> edits, string author, string? label, JournalKind kind, long? of, bool risky = false, PlannedOutcome? planned = null)
    {
        JournalEntry entry;
        ChangeOutcome outcome;
        lock (_turn)
        {
            State before = _state;
            long now = _clock.GetUtcNow().ToUnixTimeMilliseconds();
            outcome = planned is not null && label is not null && ReferenceEquals(planned.On, before.Project) && Changes.RefuseLabel(label) is null ? planned.By(author, now, label) : Changes.Apply(before.Project, new ChangeSet(edits, author, now, label), kind, of, _store.RecordAt);
            if (outcome.Entry is null) return outcome;
            entry = outcome.Entry;
            try
            {
                if ((risky || edits.Count >= HugeEdit) && before.Project.Revision > 0) Backups.Make(_store.Database);
                if (risky || edits.Count >= LargeEdit || _snapshotDay != _clock.GetUtcNow().UtcDateTime.Date) SnapshotBefore(risky || edits.Count >= LargeEdit, author, entry.Label);
                _store.Write(entry);
            }
            catch (SqliteException e) when (StorageTrouble.Is(e))
            {
                throw new StorageException(StorageTrouble.Say(e, _store.Database.FilePath));
            }
            TagIndex tags = before.Tags.After(outcome.After!, entry.Changes);
            FindingsIndex findings = before.Findings.After(before.Project, outcome.After!, entry.Changes.Select(c => c.Id), tags.Retagged);
            _state = new State(outcome.After!, findings, tags);
            Finder.Follow(entry.Changes);
            Note(entry);
        }
        Changed?.Invoke(entry);
        return outcome;
    }

    private ChangeOutcome TakeBack(long revision, string author, JournalKind kind)
    {
        if (_store.Find(revision) is not { } entry) return Refuse("This entry is not in the history.");
        var (edits, refusals) = Changes.Inverse(Project, entry);
        if (refusals.Count > 0) return new ChangeOutcome(null, null, [new Refusal(default, "", $"‘{entry.Label}’ cannot be taken back:"), .. refusals], []);
        string label = kind == JournalKind.Redo ? $"Did again: {Plain(entry.Label)}" : $"Undid: {Plain(entry.Label)}";
        return Apply(edits, author, label, kind, revision);

        static string Plain(string text) => text.StartsWith("Undid: ", StringComparison.Ordinal) ? text[7..] : text.StartsWith("Did again: ", StringComparison.Ordinal) ? text[11..] : text;
    }

    /// <summary>The stacks of an author, worked out from the journal the first time.</summary>
    private (Stack<long> Undo, Stack<long> Redo) Stacks(string author)
    {
        if (_stacks.TryGetValue(author, out var stacks)) return stacks;
        stacks = (new Stack<long>(), new Stack<long>());
        _stacks[author] = stacks;
        foreach (JournalEntry entry in _store.Of(author)) Note(entry);
        return stacks;
    }

    private void Note(JournalEntry entry)
    {
        if (!_stacks.TryGetValue(entry.Author, out var stacks))
        {
            // The journal already holds this entry, so working the stacks out from it counts it once.
            Stacks(entry.Author);
            return;
        }
        switch (entry.Kind)
        {
            case JournalKind.Edit:
                stacks.Undo.Push(entry.Revision);
                stacks.Redo.Clear();
                break;
            case JournalKind.Undo:
                if (stacks.Undo.Count > 0) stacks.Undo.Pop();
                stacks.Redo.Push(entry.Revision);
                break;
            default:
                if (stacks.Redo.Count > 0) stacks.Redo.Pop();
                stacks.Undo.Push(entry.Revision);
                break;
        }
    }

    private static ChangeOutcome Refuse(string sentence) => new(null, null, [new Refusal(default, "", sentence)], []);
}
