using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;

namespace LoftyWren.Core.Sequences.Ledger;

/// <summary>
/// What a ledger calls what its lines read: blocks by their own names, with the output where they have several; points by
/// theirs, with what they belong to where two are called alike; schedules. Names of points elsewhere are read as <c>name of
/// owner</c>.
/// </summary>
public sealed class LedgerNames
{
    /// <summary>What stands before a constant that would read as a name otherwise: <c>#off</c> beside a block called Off.</summary>
    public const char ConstantMark = '#';

    private readonly Project _project;
    private readonly List<(string Name, Source Source)> _all = [];
    private readonly Dictionary<Source, string> _bySource = [];
    private readonly HashSet<string> _taken = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, string> _blocks = [];

    /// <summary>The names in a sequence of a project.</summary>
    public LedgerNames(Project project, Sequence sequence, IReadOnlyDictionary<string, string>? inputs = null)
    {
        _project = project;
        foreach (var (pin, label) in inputs ?? new Dictionary<string, string>()) Add(Free(label), new PinSource(pin));
        foreach (Block block in sequence.Blocks)
        {
            string name = Free(block.Called());
            _blocks[block.Id] = name;
            var outputs = BlockType.Of(block).Outputs;
            foreach (var (pin, first) in outputs.Select((o, i) => (o, i == 0))) Add(first ? name : Free($"{name} · {pin.Label}"), new BlockSource(block.Id, pin.Name));
        }
        var used = sequence.Commands.Select(c => c.PointId).Concat(sequence.Sources().Select(s => s.Source).OfType<PointSource>().Select(p => p.PointId));
        RecordId? room = project.Lineage(sequence.EquipmentId).OfType<Place>().FirstOrDefault()?.Id;
        var near = project.Referrers<Point>(sequence.EquipmentId).Where(p => p.OwnerId == sequence.EquipmentId).Select(p => p.Id)
            .Concat(room is { } place ? project.Referrers<Point>(place).Where(p => p.OwnerId == place).Select(p => p.Id) : []);
        var points = used.Concat(near).Distinct().Select(id => project.Find<Point>(id)).OfType<Point>().ToList();
        var alike = points.ToLookup(p => p.Name, StringComparer.OrdinalIgnoreCase);
        foreach (Point point in points)
        {
            bool isClear = !alike[point.Name].Skip(1).Any() && !_taken.Contains(point.Name);
            string name = isClear ? point.Name : FullName(point);
            // Two of one name at one owner: the id tells them apart.
            if (_taken.Contains(name)) name = $"{FullName(point)} ({point.Id})";
            _taken.Add(name);
            Add(name, new PointSource(point.Id));
        }
        foreach (Schedule schedule in project.All<Schedule>().OrderBy(s => s.Id.Value, StringComparer.Ordinal))
        {
            string name = Free(schedule.Name);
            Add(name, new ScheduleSource(schedule.Id));
            Add(Free($"until {name} changes"), new ScheduleSource(schedule.Id, Ahead: true));
        }
    }

    /// <summary>All names with what they stand for.</summary>
    public IReadOnlyList<(string Name, Source Source)> All => _all;

    /// <summary>The name of a line of the ledger: that of its block.</summary>
    public string OfBlock(string id) => _blocks[id];

    /// <summary>The text of a source.</summary>
    public string Of(Source source) => source is ConstantSource constant ? Say(constant) : _bySource.TryGetValue(source, out string? name) ? name : source is PointSource p && _project.Find<Point>(p.PointId) is { } point ? FullName(point) : "?";

    /// <summary>The text of a point.</summary>
    public string Of(RecordId point) => Of(new PointSource(point));

    /// <summary>A constant to the last digit.</summary>
    public static string Say(ConstantSource constant) => constant.Binary ? ConstantText.Say(constant) : $"{constant.Value.ToString("R", System.Globalization.CultureInfo.InvariantCulture)}{(string.IsNullOrEmpty(constant.Unit) ? "" : $" {constant.Unit}")}";

    /// <summary>The longest name that begins at a place of a text and ends there at a word's end, with its length there; bare or in ‘ ’.</summary>
    public (Source Source, int Length)? At(string text, int at)
    {
        bool isQuoted = at < text.Length && text[at] == '‘';
        if (isQuoted)
        {
            return Quoting.At(text, at) is var (quoted, end) && Named(quoted) is { } source ? (source, end - at) : null;
        }
        (Source, int)? best = null;
        foreach (var (name, source) in _all)
        {
            if ((best is var (_, length) && length >= name.Length) || char.IsWhiteSpace(name[0]) || char.IsWhiteSpace(name[^1])) continue;
            if (Is(text, at, name)) best = (source, name.Length);
        }
        return best ?? Elsewhere(text, at);
    }

    /// <summary>Whether a name may stand without its marks at all.</summary>
    public static bool CanBeBare(string name) => name.Length > 0 && name[0] != ConstantMark && !char.IsWhiteSpace(name[0]) && !char.IsWhiteSpace(name[^1]) && !name.AsSpan().ContainsAny('‘', '’');

    /// <summary>What a whole text is the name of.</summary>
    public Source? Named(string name) => _all.FirstOrDefault(a => a.Name.Equals(name, StringComparison.OrdinalIgnoreCase)).Source ?? (Elsewhere(name, 0) is var (source, length) && length == name.Length ? source : null);

    /// <summary>Whether a name stands at a place of a text, up to a word's end.</summary>
    internal static bool Is(string text, int at, string name)
    {
        int end = at + name.Length;
        return name.Length > 0 && string.Compare(text, at, name, 0, name.Length, StringComparison.OrdinalIgnoreCase) == 0 && (end >= text.Length || !(char.IsLetterOrDigit(text[end]) || text[end] == '_'));
    }

    private string FullName(Point point) => $"{point.Name} of {_project.Find(point.OwnerId)?.Name}";

    /// <summary>A point of any place by its name and what it belongs to, where that is one only.</summary>
    private (Source, int)? Elsewhere(string text, int at)
    {
        if (text.IndexOf(" of ", at, StringComparison.OrdinalIgnoreCase) < 0) return null;
        (Source Source, int Length)? best = null;
        bool isTwo = false;
        foreach (Point point in _project.All<Point>())
        {
            if (!Is(text, at, point.Name)) continue;
            string full = FullName(point);
            if (!Is(text, at, full)) continue;
            if (best is var (_, length) && length >= full.Length)
            {
                isTwo |= length == full.Length;
                continue;
            }
            (best, isTwo) = ((new PointSource(point.Id), full.Length), false);
        }
        return isTwo ? null : best;
    }

    private string Free(string name)
    {
        string free = name;
        for (int n = 2; !_taken.Add(free); n++) free = $"{name} ({n})";
        return free;
    }

    private void Add(string name, Source source)
    {
        _all.Add((name, source));
        _bySource[source] = name;
    }
}
