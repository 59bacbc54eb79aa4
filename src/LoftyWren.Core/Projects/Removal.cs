using LoftyWren.Core.Records;

namespace LoftyWren.Core.Projects;

/// <summary>What becomes of a record that refers to one that goes.</summary>
public enum Successor
{
    /// <summary>What belongs goes along, what only uses it loses its link.</summary>
    Usual,
    /// <summary>Another record takes the place of the one that goes.</summary>
    Another,
    /// <summary>A fixed value takes its place, where it is read.</summary>
    Constant,
    /// <summary>It goes too.</summary>
    GoesToo,
}

/// <summary>What becomes of one record for the sake of one that goes.</summary>
/// <param name="RecordId">The record that refers to it.</param>
/// <param name="Gone">What goes.</param>
/// <param name="What">What becomes of it.</param>
/// <param name="By">What takes the place, for <see cref="Successor.Another"/>.</param>
/// <param name="Value">The value, for <see cref="Successor.Constant"/>, in the unit of what goes.</param>
public sealed record RemovalChoice(RecordId RecordId, RecordId Gone, Successor What, RecordId? By = null, double? Value = null);

/// <summary>A record that stays and refers to something that goes: before and after, and as what it used it.</summary>
public sealed record Loosening(ProjectRecord Before, ProjectRecord After, IReadOnlyList<Reference> Lost);

/// <summary>What a removal takes along, and what it changes in the records that stay.</summary>
public sealed record Removal(IReadOnlyList<ProjectRecord> Gone, IReadOnlyList<Loosening> Changed, IReadOnlyList<Edit> Edits)
{
    /// <summary>The records that stay and lose a link or get another.</summary>
    public IEnumerable<ProjectRecord> Loosened => Changed.Select(c => c.Before);

    /// <summary>
    /// Works out the removal of some records: everything that belongs to them goes too, and everything else that refers
    /// to what goes is kept without that reference; where a choice says so, another record or a fixed value takes its place,
    /// what would belong stays with another, or what uses it goes as well. The edits carry the revisions seen, so a removal
    /// decided on an old picture is a conflict, not a surprise.
    /// </summary>
    public static Removal Of(Project project, IEnumerable<RecordId> ids, IReadOnlyCollection<RemovalChoice>? choices = null)
    {
        var chosen = (choices ?? []).GroupBy(c => (c.RecordId, c.Gone)).ToDictionary(g => g.Key, g => g.Last());
        bool Goes(RecordId referrer, Reference reference) => chosen.TryGetValue((referrer, reference.To), out RemovalChoice? choice) && choice.What != Successor.Usual ? choice.What == Successor.GoesToo || (choice.What == Successor.Constant && reference.Owning) : reference.Owning;
        var gone = new HashSet<RecordId>();
        var queue = new Queue<RecordId>(ids.Where(id => project.Find(id) is not null));
        while (queue.TryDequeue(out RecordId id))
        {
            if (!gone.Add(id)) continue;
            foreach (ProjectRecord referrer in project.Referrers(id))
            {
                if (referrer.References().Any(r => r.To == id && Goes(referrer.Id, r))) queue.Enqueue(referrer.Id);
            }
        }
        var changed = gone.SelectMany(project.Referrers).Where(r => !gone.Contains(r.Id)).DistinctBy(r => r.Id)
            .OrderBy(r => r.Noun).ThenBy(r => r.Name)
            .Select(r => new Loosening(r, r.Through(new Succeeding(project, r.Id, gone, chosen)), [.. r.References().Where(x => gone.Contains(x.To))])).ToList();
        var edits = gone.Order().Select(id => Edit.Removing(id, project.FindEntry(id)!.Revision))
            .Concat(changed.Select(c => Edit.Of(c.After, project.FindEntry(c.Before.Id)!.Revision)))
            .ToList();
        var goneRecords = gone.Select(id => project.Find(id)!).OrderBy(r => r.Noun).ThenBy(r => r.Name).ToList();
        return new Removal(goneRecords, changed, edits);
    }

    /// <summary>Why choices cannot be followed, in words, or null.</summary>
    public static string? Refuse(Project project, IEnumerable<RemovalChoice> choices)
    {
        foreach (RemovalChoice choice in choices)
        {
            string record = project.Find(choice.RecordId)?.Called(project.Find) ?? "a record", gone = project.Find(choice.Gone)?.Name ?? "what goes";
            if (choice.What == Successor.Another && (choice.By is not { } by || project.Find(by) is null)) return $"Choose what takes the place of ‘{gone}’ in ‘{record}’.";
            if (choice.What == Successor.Another && choice.By == choice.Gone) return $"‘{gone}’ cannot take its own place in ‘{record}’. Choose another.";
            if (choice.What == Successor.Constant && choice.Value is not { } value) return $"Type the value that takes the place of ‘{gone}’ in ‘{record}’.";
        }
        return null;
    }

    /// <summary>Leads a record's references from what goes to what takes its place.</summary>
    private sealed class Succeeding(Project project, RecordId record, IReadOnlySet<RecordId> gone, IReadOnlyDictionary<(RecordId, RecordId), RemovalChoice> chosen) : ReferenceMap
    {
        protected override RecordId? Lead(ReferenceSort sort, RecordId to) =>
            !gone.Contains(to) ? to : chosen.GetValueOrDefault((record, to)) is { What: Successor.Another, By: { } by } ? by : null;

        public override FixedValue? InPlaceOf(RecordId to) =>
            gone.Contains(to) && chosen.GetValueOrDefault((record, to)) is { What: Successor.Constant, Value: { } value } ? FixedValue.For(project.Find(to), value) : null;
    }
}
