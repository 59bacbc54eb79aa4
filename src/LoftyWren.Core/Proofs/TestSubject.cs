using LoftyWren.Core.Live;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Core.Proofs;

/// <summary>What a step of a test sets or looks at: a point, or an output of a block of the sequence. Neither once that has gone.</summary>
public sealed record TestSubject
{
    /// <summary>The point.</summary>
    public RecordId? PointId { get; init; }

    /// <summary>The block of the sequence.</summary>
    public string? BlockId { get; init; }

    /// <summary>Which of the block's outputs.</summary>
    public string Pin { get; init; } = "out";

    private static readonly ReferenceSort Tested = ReferenceSort.Link<Point>("is tested with", "tests", "point");

    /// <summary>The subject with what its reference comes to.</summary>
    public TestSubject Through(ReferenceMap map) => map.Link(Tested, PointId) is var point && point == PointId ? this : this with { PointId = point };
}

/// <summary>
/// What the tests of a sequence call what they set and look at: points by their names, with their equipment or room where two
/// are called alike, and blocks by theirs, with the output where they have several, and those inside own blocks.
/// </summary>
public sealed class SubjectNames
{
    // Words that stand where the name of a state may stand; what may follow a subject beside them; and what may follow a state.
    private static readonly string[] Reserved = ["is", "released", "in fault", "above", "below", "between"], BehindSubject = ["is", "to", "at", "on", "off", "released", "in", "above", "below", "between"], BehindState = ["within", "for", "over"];

    private readonly List<Named> _all = [];
    private readonly Dictionary<TestSubject, Named> _bySubject = [];
    private readonly HashSet<string> _taken = new(StringComparer.OrdinalIgnoreCase);

    private sealed record Named(string Name, TestSubject Subject, ValueForm Form, bool CanBeSet);

    /// <summary>The names in a sequence: what it reads and commands, the points of its equipment, and its blocks.</summary>
    public SubjectNames(Project project, Sequence sequence)
    {
        Typing typing = Typing.Of(sequence, project);
        var points = sequence.Commands.Select(c => c.PointId).Concat(sequence.Sources().Select(s => s.Source).OfType<PointSource>().Select(p => p.PointId))
            .Concat(project.Referrers<Point>(sequence.EquipmentId).Where(p => p.OwnerId == sequence.EquipmentId).Select(p => p.Id))
            .Concat(sequence.Tests.SelectMany(t => t.Steps).Select(s => s.Subject?.PointId).OfType<RecordId>())
            .Distinct().Select(id => project.Find<Point>(id)).OfType<Point>().ToList();
        var alike = points.ToLookup(p => p.Name, StringComparer.OrdinalIgnoreCase);
        foreach (Point point in points)
            Add(alike[point.Name].Skip(1).Any() ? $"{point.Name} of {project.Find(point.OwnerId)?.Name}" : point.Name, new TestSubject { PointId = point.Id }, new ValueForm(point.Kind, point.Unit, point.StateTexts), true);
        foreach (Block block in sequence.Blocks)
        {
            foreach (Pin pin in BlockType.Of(block).Outputs)
            {
                Add(block.Says(pin.Name), new TestSubject { BlockId = block.Id, Pin = pin.Name }, FormOf(typing.Outputs.GetValueOrDefault((block.Id, pin.Name))), false);
            }
        }
        AddInside(typing);
    }

    private void AddInside(Typing typing)
    {
        var called = typing.Plain.Blocks.ToDictionary(b => b.Id, b => b.Called());
        foreach (Block inner in typing.Plain.Blocks.Where(b => b.Id.Contains('.', StringComparison.Ordinal) && !BlockType.Of(b.Kind).IsInner))
        {
            foreach (Pin pin in BlockType.Of(inner.Kind).Outputs) Add(inner.Says(pin.Name, BlockType.Of(inner.Kind)), new TestSubject { BlockId = inner.Id, Pin = pin.Name }, FormOf(typing.Outputs.GetValueOrDefault((inner.Id, pin.Name))), false);
        }
        // What was taken apart inside: columns of mode tables, outputs of own blocks.
        foreach (var ((block, pin), source) in typing.Taken.Where(t => t.Key.Block.Contains('.', StringComparison.Ordinal)))
            Add(called[source.BlockId], new TestSubject { BlockId = block, Pin = pin }, FormOf(typing.Outputs.GetValueOrDefault((block, pin))), false);
    }

    private static ValueForm FormOf(LineType type) => type.Binary ? ValueForm.OnOff : type.States is { } states ? new ValueForm(PointKind.Multistate, null, states) : ValueForm.Number with { Unit = type.Unit?.Symbol };

    /// <summary>All names, in order; those that can be set are points.</summary>
    public IEnumerable<(string Name, bool CanBeSet)> All => _all.Select(a => (a.Name, a.CanBeSet));

    /// <summary>All that steps may be about, in order.</summary>
    public IEnumerable<(string Name, TestSubject Subject, ValueForm Form, bool CanBeSet)> Subjects => _all.Select(a => (a.Name, a.Subject, a.Form, a.CanBeSet));

    /// <summary>The name of a subject, in ‘ ’ where it and what follows could be taken for another.</summary>
    public string Of(TestSubject? subject) => subject is null ? "?" : !_bySubject.TryGetValue(subject, out Named? named) ? "what has gone"
        : Quoted(named.Name, _all.Select(a => a.Name), [.. BehindSubject, .. named.Form.StateTexts.Select(s => s.Split(' ')[0])], []);

    /// <summary>How the values of a subject are said; null where it has gone.</summary>
    public ValueForm? FormOf(TestSubject? subject) => subject is null ? null : _bySubject.GetValueOrDefault(subject)?.Form;

    /// <summary>Whether a subject is a point that can be set.</summary>
    public bool CanBeSet(TestSubject subject) => _bySubject.GetValueOrDefault(subject)?.CanBeSet == true;

    /// <summary>The longest name that begins at a place of a text and ends there at a word's end, with its length there.</summary>
    public (TestSubject Subject, int Length)? At(string text, int at)
    {
        Named? best = null;
        int length = 0;
        foreach (Named named in _all)
        {
            if (LengthAt(text, at, named.Name) is var here && here > length) (best, length) = (named, here);
        }
        return best is null ? null : (best.Subject, length);
    }

    /// <summary>How much of a text at a place is a name, bare or in ‘ ’ and up to a word's end; 0 where it is not there.</summary>
    internal static int LengthAt(string text, int at, string name)
    {
        bool isQuoted = at < text.Length && text[at] == '‘';
        int from = isQuoted ? at + 1 : at, end = from + name.Length;
        if (name.Length == 0 || string.Compare(text, from, name, 0, name.Length, StringComparison.OrdinalIgnoreCase) != 0) return 0;
        if (isQuoted && (end >= text.Length || text[end++] != '’')) return 0;
        return end == text.Length || (end < text.Length && text[end] == ' ') ? end - at : 0;
    }

    /// <summary>A name in ‘ ’ where another goes on with a word that may follow it, or where it begins like words that are kept for conditions.</summary>
    private static string Quoted(string name, IEnumerable<string> others, IReadOnlyList<string> behind, IEnumerable<string> reserved)
    {
        bool begins(string other, string with) => other.Length > with.Length && other[with.Length] == ' ' && other.StartsWith(with, StringComparison.OrdinalIgnoreCase);
        bool follows(string word) => behind.Contains(word, StringComparer.OrdinalIgnoreCase) || char.IsAsciiDigit(word[0]) || word[0] is '-' or '−' or '+' or '‘';
        return name.StartsWith('‘') || others.Any(o => begins(o, name) && o[(name.Length + 1)..].TrimStart() is { Length: > 0 } rest && follows(rest.Split(' ')[0])) || reserved.Any(r => name.Equals(r, StringComparison.OrdinalIgnoreCase) || begins(name, r)) ? $"‘{name}’" : name;
    }

    /// <summary>A value in words that can be read back: to the last digit.</summary>
    public static string Say(ValueForm form, double value)
    {
        int state = form.Kind == PointKind.Binary ? (int)value : (int)value - 1;
        if (form.Kind != PointKind.Analog && state >= 0 && state < form.StateTexts.Count) return Quoted(form.StateTexts[state], form.StateTexts, BehindState, Reserved);
        string number = value.ToString("R", System.Globalization.CultureInfo.InvariantCulture);
        return string.IsNullOrEmpty(form.Unit) ? number : $"{number} {form.Unit}";
    }

    private void Add(string name, TestSubject subject, ValueForm form, bool canBeSet)
    {
        string free = name;
        for (int n = 2; !_taken.Add(free); n++) free = $"{name} ({n})";
        var named = new Named(free, subject, form, canBeSet);
        _all.Add(named);
        _bySubject[subject] = named;
    }
}
