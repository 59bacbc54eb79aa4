using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Search;

/// <summary>One record that matches, with where it is.</summary>
public sealed record Hit(RecordId Id, string Noun, string Name, string Path, double Score);

/// <summary>
/// Find or do: records whose name or place holds every word, in any order, letter case ignored. Names are folded once a
/// record, so a search is one pass over ready text; an edit folds only what it wrote.
/// </summary>
public sealed class Finder
{
    private readonly Dictionary<RecordId, (string Folded, double Handicap, string Noun)> _texts = [];
    private const int MostPartial = 1000;
    private readonly Lock _gate = new();

    /// <summary>Takes all records of a project.</summary>
    public void Fill(Project project)
    {
        lock (_gate)
        {
            _texts.Clear();
            foreach (ProjectRecord record in project.Records) Put(record);
        }
    }

    /// <summary>Follows an accepted change set.</summary>
    public void Follow(IEnumerable<RecordChange> changes)
    {
        lock (_gate)
        {
            foreach (RecordChange change in changes)
            {
                if (change.After is null) _texts.Remove(change.Id);
                else Put(change.After);
            }
        }
    }

    /// <summary>The best matches: names that begin with a word first, then shorter names; places count, but less than names; a point comes before its trend or alarm.</summary>
    /// <param name="nouns">The sorts of record to look among; all when null.</param>
    public IReadOnlyList<Hit> Find(Project project, string query, int most = 20, IReadOnlyCollection<string>? nouns = null)
    {
        string[] words = query.ToLowerInvariant().Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        if (words.Length == 0) return [];
        var best = new PriorityQueue<RecordId, double>();
        var partial = new PriorityQueue<RecordId, double>();
        lock (_gate)
        {
            foreach (var (id, (folded, handicap, noun)) in _texts)
            {
                if (nouns is not null && !nouns.Contains(noun)) continue;
                double score = 0;
                int missing = 0;
                foreach (string word in words)
                {
                    int at = folded.IndexOf(word, StringComparison.Ordinal);
                    if (at < 0) missing++;
                    else score += at == 0 ? 3 : folded[at - 1] == ' ' || folded[at - 1] == '-' ? 2 : 1;
                }
                if (missing == words.Length) continue;
                score -= handicap + (folded.Length / 200.0);
                Keep(missing == 0 ? best : partial, id, score - (missing * 10), missing == 0 ? most : MostPartial);
            }
            // What the name lacks, the place may say: “kiln fan” finds the fan in the kiln room. Places are looked up for
            // the likeliest only, so that a search stays one pass over ready text.
            for (bool few = best.Count < most; few && partial.TryDequeue(out RecordId id, out double score);)
            {
                string folded = _texts[id].Folded, path = project.PathOf(id).ToLowerInvariant();
                if (!words.All(w => folded.Contains(w, StringComparison.Ordinal) || path.Contains(w, StringComparison.Ordinal))) continue;
                // The room it is in says more than the building, which stands first: “kiln fan” means the kiln room's, not every fan in Kiln House.
                string nearest = path[(path.IndexOf('›') + 1)..];
                Keep(best, id, score + (0.5 * words.Count(w => !folded.Contains(w, StringComparison.Ordinal) && nearest.Contains(w, StringComparison.Ordinal))), MostPartial);
            }
            while (best.Count > most) best.Dequeue();
        }
        var hits = new List<Hit>();
        while (best.TryDequeue(out RecordId id, out double score))
        {
            if (project.Find(id) is { } record) hits.Add(new Hit(id, record.Noun, record.Name, project.PathOf(id), score));
        }
        hits.Reverse();
        return hits;
    }

    private static void Keep(PriorityQueue<RecordId, double> queue, RecordId id, double score, int most)
    {
        if (queue.Count < most) queue.Enqueue(id, score);
        else if (queue.TryPeek(out _, out double least) && score > least) queue.EnqueueDequeue(id, score);
    }

    private void Put(ProjectRecord record)
    {
        RecordKind kind = RecordKinds.Of(record);
        if (kind.IsSearched) _texts[record.Id] = (record.Name.ToLowerInvariant(), kind.Handicap, record.Noun);
    }
}
