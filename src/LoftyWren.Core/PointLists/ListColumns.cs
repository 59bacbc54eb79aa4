using System.Collections.Frozen;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.PointLists;

/// <summary>What a column of a list can say: where a row is, what it is called, or a field of it.</summary>
/// <param name="Key">Its name in a mapping.</param>
/// <param name="Label">What people call it, and the header of a list that is written.</param>
/// <param name="Headers">What else lists call it, in small letters.</param>
public sealed record ListColumn(string Key, string Label, IReadOnlyList<string> Headers)
{
    /// <summary>Its place among all columns.</summary>
    public int Index { get; init; }

    /// <summary>The kind of record it is about, where it is a field or a name.</summary>
    public RecordKind? Kind { get; init; }

    /// <summary>The field it is; null where it names a record or says where one is.</summary>
    public Field? Field { get; init; }
}

/// <summary>All columns that a list can have: those of places, and those of every kind of record that lists hold.</summary>
public static class ListColumns
{
    private static readonly Lazy<Known> Read = new(() => new Known());

    /// <summary>Nothing that is read.</summary>
    public const string None = "none";

    /// <summary>Name of the building.</summary>
    public static ListColumn Building => Read.Value.Building;

    /// <summary>Name of the floor.</summary>
    public static ListColumn Floor => Read.Value.Floor;

    /// <summary>Order of the floor, a whole number; the ground is 0.</summary>
    public static ListColumn Level => Read.Value.Level;

    /// <summary>Name of the room.</summary>
    public static ListColumn Room => Read.Value.Room;

    /// <summary>The template that equipment is placed from.</summary>
    public static ListColumn Template => Read.Value.Template;

    /// <summary>Values of the template's parameters and where its references lead, as <c>setpoint = 21; Opening hours = Opening hours</c>.</summary>
    public static ListColumn Values => Read.Value.Values;

    /// <summary>Order of the place among its siblings, a whole number.</summary>
    public static ListColumn Position => Read.Value.Position;

    /// <summary>The id of what the row is about: it is found again by it, whatever it is called now.</summary>
    public static ListColumn Id => Read.Value.Id;

    /// <summary>All of them, in the order in which they are offered.</summary>
    public static IReadOnlyList<ListColumn> All => Read.Value.All;

    /// <summary>The column with this key, or null.</summary>
    public static ListColumn? Find(string key) => Read.Value.ByKey.GetValueOrDefault(key);

    /// <summary>The column that a header in small letters, its marks made spaces, stands for; or null.</summary>
    public static ListColumn? Named(string header) => Read.Value.ByHeader.GetValueOrDefault(header);

    /// <summary>The column of a kind's names.</summary>
    public static ListColumn Of(RecordKind kind) => Read.Value.ByKey[kind.Key];

    /// <summary>The column of a field, or null where lists have none for it.</summary>
    public static ListColumn? Of(RecordKind kind, Field field) => Read.Value.ByKey.GetValueOrDefault(KeyOf(kind, field));

    private static string KeyOf(RecordKind kind, Field field) => field.Column ?? $"{kind.Key}.{field.Key}";

    private sealed class Known
    {
        private readonly List<ListColumn> _all = [];

        public Known()
        {
            Building = Add(new("building", "Building", ["block", "house"]));
            Floor = Add(new("floor", "Floor", ["storey", "story", "floor name"]));
            Level = Add(new("level", "Level", ["floor no", "floor number"]));
            Room = Add(new("room", "Room", ["space", "room name", "location"]));
            AddFields(Place.AsKind, (field, unit) => unit is null ? field.Label : $"{field.Label} {unit}");
            Position = Add(new("position", "Position", ["order"]));
            // Equipment and points first, which most lists are about; then the others as they are registered.
            foreach (RecordKind kind in RecordKinds.All.Where(k => k.IsListed))
            {
                string noun = char.ToUpperInvariant(kind.Nouns[0].Noun[0]) + kind.Nouns[0].Noun[1..];
                Add(new(kind.Key, noun, kind.ListHeaders) { Kind = kind });
                AddFields(kind, (field, _) => kind == Point.AsKind ? field.Label : $"{noun} {field.Label.ToLowerInvariant()}");
                if (kind != Equipment.AsKind) continue;
                Template = Add(new("template", "Template", []));
                Values = Add(new("values", "Template values", ["values", "parameters"]));
            }
            Id = Add(new("id", "Id", ["record id"]));
            ByKey = _all.ToFrozenDictionary(c => c.Key);
            var headers = new Dictionary<string, ListColumn>();
            foreach (ListColumn column in _all)
            {
                foreach (string header in column.Headers.Prepend(column.Label.ToLowerInvariant())) headers.TryAdd(header, column);
            }
            ByHeader = headers.ToFrozenDictionary();
        }

        public ListColumn Building { get; }

        public ListColumn Floor { get; }

        public ListColumn Level { get; }

        public ListColumn Room { get; }

        public ListColumn Template { get; } = null!;

        public ListColumn Values { get; } = null!;

        public ListColumn Position { get; }

        public ListColumn Id { get; }

        public IReadOnlyList<ListColumn> All => _all;

        public FrozenDictionary<string, ListColumn> ByKey { get; }

        public FrozenDictionary<string, ListColumn> ByHeader { get; }

        private ListColumn Add(ListColumn column)
        {
            _all.Add(column with { Index = _all.Count });
            return _all[^1];
        }

        private void AddFields(RecordKind kind, Func<Field, string?, string> label)
        {
            foreach (Field field in kind.Fields.Where(f => f.Is(FieldUses.Import))) Add(new(KeyOf(kind, field), label(field, field.Unit), field.Headers) { Kind = kind, Field = field });
        }
    }
}
