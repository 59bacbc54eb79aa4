using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Core.OlderPrograms;

/// <summary>What a line of a conversion's report says.</summary>
public enum ConversionSort
{
    /// <summary>It was put in another form and does what it did.</summary>
    Changed,
    /// <summary>It was put in another form and may behave otherwise.</summary>
    Risky,
    /// <summary>It was not carried over and stays as it is.</summary>
    NotCarried,
    /// <summary>Somebody had made it depart from its template; whether it still fits only they know.</summary>
    Customised,
}

/// <summary>One line of the report: the sequence, the block where it is about one, what became of it, and why it matters or what to do.</summary>
public sealed record ConversionLine(ConversionSort Sort, RecordId SequenceId, string? BlockId, string What, string Why);

/// <summary>What the conversion of a project's older programs would make: the sequences as they would be, and the report.</summary>
public sealed record ConversionPlan(IReadOnlyList<Sequence> Sequences, IReadOnlyList<ConversionLine> Lines)
{
    /// <summary>Its edits against the revisions that it was made from.</summary>
    public IReadOnlyList<Edit> Edits(Project project) => [.. Sequences.Select(s => Edit.Of(s, project.FindEntry(s.Id)!.Revision))];
}

/// <summary>
/// Programs written with an older version: their blocks still run as they did, and are converted to those of today. The
/// conversion works on a copy; the project changes only when its change set is applied.
/// </summary>
public static class ProgramConversion
{
    /// <summary>Whether a sequence has blocks of an older version.</summary>
    public static bool IsOlder(Sequence sequence) => sequence.Blocks.Any(b => BlockType.Of(b.Kind).IsRetired);

    /// <summary>The plan for all older sequences of a project, or for some of them.</summary>
    /// <param name="project">The project; it stays as it is.</param>
    /// <param name="departures">In what a piece of equipment departs from the template that it was placed from, in words.</param>
    /// <param name="only">The sequences; null for all.</param>
    public static ConversionPlan Of(Project project, Func<Equipment, IEnumerable<string>> departures, IReadOnlySet<RecordId>? only = null)
    {
        var sequences = new List<Sequence>();
        var lines = new List<ConversionLine>();
        foreach (Sequence sequence in project.All<Sequence>().Where(s => IsOlder(s) && only?.Contains(s.Id) != false).OrderBy(s => s.Name, NaturalOrder.Names).ThenBy(s => s.Id))
        {
            var blocks = new List<Block>();
            var added = new Dictionary<string, IReadOnlyList<string>>();
            foreach (Block block in sequence.Blocks)
            {
                BlockType type = BlockType.Of(block.Kind);
                if (type.Succeeds is not { } succeeds)
                {
                    blocks.Add(block);
                    continue;
                }
                Succession next = succeeds(project, type, block);
                string called = $"{type.Name} ‘{block.Called()}’";
                if (next.Blocks.Count == 0)
                {
                    blocks.Add(block);
                    lines.Add(new ConversionLine(ConversionSort.NotCarried, sequence.Id, block.Id, $"{called} stays as it is.", next.Changed));
                    continue;
                }
                blocks.AddRange(next.Blocks);
                added[block.Id] = [.. next.Blocks.Select(b => b.Id)];
                lines.Add(new ConversionLine(ConversionSort.Changed, sequence.Id, block.Id, $"{called} became {string.Join(" and ", next.Blocks.Select(b => BlockType.Of(b.Kind).Name))}.", next.Changed));
                if (next.Risk is { } risk) lines.Add(new ConversionLine(ConversionSort.Risky, sequence.Id, block.Id, $"{called} may behave otherwise.", risk));
            }
            if (project.Find<Equipment>(sequence.EquipmentId) is { Placed: not null } equipment)
                lines.AddRange(departures(equipment).Select(d => new ConversionLine(ConversionSort.Customised, sequence.Id, null, d, "Somebody changed it since it was placed. See that it still means what they meant.")));
            if (added.Count == 0) continue;
            // A paragraph that a block meets is met by all that came in its place.
            IReadOnlyList<Clause> clauses = [.. sequence.Clauses.Select(c => c with { Blocks = [.. c.Blocks.SelectMany(b => added.GetValueOrDefault(b, [b]))] })];
            Sequence converted = sequence with { Blocks = blocks, Clauses = clauses };
            if (Refusal(project, converted) is { } refused)
            {
                // One that cannot be taken keeps no other from being converted.
                lines.RemoveAll(l => l.SequenceId == sequence.Id && l.Sort != ConversionSort.Customised);
                lines.Add(new ConversionLine(ConversionSort.NotCarried, sequence.Id, null, $"‘{sequence.Name}’ stays as it is.", $"Converted, it would be refused: {refused}"));
            }
            else sequences.Add(converted);
        }
        return new ConversionPlan(sequences, lines);
    }

    /// <summary>Why a change set with a converted sequence would be refused; null where it would not.</summary>
    private static string? Refusal(Project project, Sequence converted)
    {
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(converted, project.FindEntry(converted.Id)!.Revision)], "conversion", 0));
        return outcome.Accepted ? null : string.Join(" ", outcome.Refusals.Select(r => r.Sentence).Distinct().Take(3));
    }

    /// <summary>
    /// The names of the sequences that an older program runs as it was written and a design runs converted: it has to be lived
    /// through a day beside the older one before it is sent.
    /// </summary>
    public static IReadOnlyList<string> ConvertedSince(IEnumerable<ProjectRecord> runs, IEnumerable<ProjectRecord> design)
    {
        var now = design.OfType<Sequence>().ToDictionary(s => s.Id);
        return [.. runs.OfType<Sequence>().Where(s => now.TryGetValue(s.Id, out Sequence? next) && s.Blocks.Any(b => BlockType.Of(b.Kind).IsRetired && !next.Blocks.Any(n => n.Id == b.Id && n.Kind == b.Kind))).Select(s => s.Name)];
    }
}
