using LoftyWren.Core.Live;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Units;

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
/// are called alike, and blocks by theirs, with the output where they have several.
/// </summary>
public sealed class SubjectNames
{
    private readonly List<(string Name, TestSubject Subject, ValueForm Form, bool CanBeSet)> _all = [];

    /// <summary>The names in a sequence: what it reads and commands, the points of its equipment, and its blocks.</summary>
    public SubjectNames(Project project, Sequence sequence)
    {
        Typing typing = Typing.Of(sequence, project);
        var points = sequence.Commands.Select(c => c.PointId).Concat(sequence.Sources().Select(s => s.Source).OfType<PointSource>().Select(p => p.PointId))
            .Concat(project.Referrers<Point>(sequence.EquipmentId).Where(p => p.OwnerId == sequence.EquipmentId).Select(p => p.Id))
            .Concat(sequence.Tests.SelectMany(t => t.Steps).Select(s => s.Subject?.PointId).OfType<RecordId>())
            .Distinct().Select(id => project.Find<Point>(id)).OfType<Point>().ToList();
        foreach (Point point in points)
        {
            string name = points.Count(p => Same(p.Name, point.Name)) == 1 ? point.Name : $"{point.Name} of {project.Find(point.OwnerId)?.Name}";
            Add(name, new TestSubject { PointId = point.Id }, new ValueForm(point.Kind, point.Unit, point.StateTexts), true);
        }
        foreach (Block block in sequence.Blocks)
        {
            foreach (Pin pin in BlockType.Of(block.Kind).Outputs)
            {
                LineType type = typing.Outputs.GetValueOrDefault((block.Id, pin.Name));
                ValueForm form = type.Binary ? ValueForm.OnOff : type.States is { } states ? new ValueForm(PointKind.Multistate, null, states) : ValueForm.Number with { Unit = type.Unit?.Symbol };
                Add(BlockType.Of(block.Kind).Outputs[0] == pin ? block.Called() : $"{block.Called()} · {pin.Label}", new TestSubject { BlockId = block.Id, Pin = pin.Name }, form, false);
            }
        }
    }

    /// <summary>All names, in order; those that can be set are points.</summary>
    public IEnumerable<(string Name, bool CanBeSet)> All => _all.Select(a => (a.Name, a.CanBeSet));

    /// <summary>The name of a subject.</summary>
    public string Of(TestSubject? subject) => subject is null ? "?" : Find(subject)?.Name ?? "what has gone";

    /// <summary>How the values of a subject are said; null where it has gone.</summary>
    public ValueForm? FormOf(TestSubject? subject) => subject is null ? null : Find(subject)?.Form;

    /// <summary>Whether a subject is a point that can be set.</summary>
    public bool CanBeSet(TestSubject subject) => Find(subject)?.CanBeSet == true;

    /// <summary>The longest name that begins at a place of a text and ends there at a word's end.</summary>
    public (TestSubject Subject, int Length)? At(string text, int at)
    {
        (TestSubject, int)? best = null;
        foreach (var (name, subject, _, _) in _all)
        {
            int end = at + name.Length;
            if (end <= text.Length && (best is null || name.Length > best.Value.Item2) && string.Compare(text, at, name, 0, name.Length, StringComparison.OrdinalIgnoreCase) == 0 && (end == text.Length || text[end] == ' ')) best = (subject, name.Length);
        }
        return best;
    }

    /// <summary>A value in words that can be read back: to the last digit.</summary>
    public static string Say(ValueForm form, double value)
    {
        int state = form.Kind == PointKind.Binary ? (int)value : (int)value - 1;
        if (form.Kind != PointKind.Analog && state >= 0 && state < form.StateTexts.Count) return form.StateTexts[state];
        string number = value.ToString("R", System.Globalization.CultureInfo.InvariantCulture);
        return string.IsNullOrEmpty(form.Unit) ? number : $"{number} {form.Unit}";
    }

    /// <summary>The unit that a value of a form is given in.</summary>
    public static Unit? UnitOf(ValueForm form) => Unit.Find(form.Unit);

    private void Add(string name, TestSubject subject, ValueForm form, bool canBeSet)
    {
        string free = name;
        for (int n = 2; _all.Exists(a => Same(a.Name, free)); n++) free = $"{name} ({n})";
        _all.Add((free, subject, form, canBeSet));
    }

    private (string Name, TestSubject Subject, ValueForm Form, bool CanBeSet)? Find(TestSubject subject)
    {
        int at = _all.FindIndex(a => a.Subject == subject);
        return at < 0 ? null : _all[at];
    }

    private static bool Same(string one, string other) => string.Equals(one, other, StringComparison.OrdinalIgnoreCase);
}
