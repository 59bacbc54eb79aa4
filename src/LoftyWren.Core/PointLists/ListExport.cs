using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.PointLists;

/// <summary>The places, equipment and points below a record as a list, in an order that does not change: the list that <see cref="ListImport"/> reads back.</summary>
public static class ListExport
{
    /// <summary>What every list has: where a row is, then the fields of places, equipment and points.</summary>
    private static readonly ListColumn[] Columns =
    [
        ListColumns.Building, ListColumns.Floor, ListColumns.Level, ListColumns.Room, .. Exported(Place.AsKind).Where(c => !IsForWhole(c)),
        ListColumns.Of(Equipment.AsKind), .. Exported(Equipment.AsKind), ListColumns.Of(Point.AsKind), .. Exported(Point.AsKind).Where(c => !IsForWhole(c)),
    ];

    /// <summary>What is only in a whole list: ids, and what a drawing or a floor view needs.</summary>
    private static readonly ListColumn[] More = [.. Exported(Point.AsKind).Where(IsForWhole), ListColumns.Position, .. Exported(Place.AsKind).Where(IsForWhole), ListColumns.Id];

    /// <summary>The mapping that reads an export back.</summary>
    public static ListMapping Mapping { get; } = new() { HeaderRow = 0, Columns = [.. Columns.Select(c => c.Key)], BlankIsAbove = false };

    private static IEnumerable<ListColumn> Exported(RecordKind kind) => kind.Fields.Where(f => f.Is(FieldUses.Export)).Select(f => ListColumns.Of(kind, f)).OfType<ListColumn>();

    private static bool IsForWhole(ListColumn column) => column.Field is { IsLink: true } || column.Field == OutlineField.AsField;

    /// <summary>
    /// The list. Rooms and equipment without points have a row of their own; in a whole list every record has, with its id,
    /// so that it is found again whatever it is called by then.
    /// </summary>
    public static Sheet Of(Project project, RecordId scope, bool whole = false)
    {
        // Kinds that lists hold besides equipment and points have columns where the scope has such records.
        var others = RecordKinds.All.Where(k => k.IsListed && k != Equipment.AsKind && k != Point.AsKind && RecordOrder.Under(project, scope, k).Any()).ToList();
        ListColumn[] columns = [.. Columns, .. others.SelectMany(k => Exported(k).Prepend(ListColumns.Of(k))), .. whole ? More : []];
        var rows = new List<string[]> { columns.Select(c => c.Label).ToArray() };
        if (project.Find(scope) is { } root) Walk(root);
        return new Sheet("Points", rows);

        void Walk(ProjectRecord record)
        {
            int from = rows.Count;
            bool isSite = record is Place { Kind: PlaceKind.Site };
            var points = Own<Point>(record);
            var inside = project.Referrers(record.Id).Where(r => r is Place or Equipment && r.ParentId == record.Id)
                .OrderBy(r => r is Equipment ? 0 : 1).ThenBy(r => r is Place { Kind: PlaceKind.Floor } p ? p.Order : 0).ThenBy(r => r.Name, StringComparer.Ordinal).ThenBy(r => r.Id).ToList();
            bool isBare = points.Count == 0 && inside.Count == 0 && !others.Any(k => OwnOf(record, k).Count > 0);
            if ((whole || isBare) && !isSite) rows.Add(Row(record, null));
            foreach (Point point in points)
            {
                rows.Add(Row(record, point));
                foreach (RecordKind kind in others) rows.AddRange(OwnOf(point, kind).Select(r => Row(record, r, point)));
            }
            foreach (RecordKind kind in others) rows.AddRange(OwnOf(record, kind).Select(r => Row(record, r)));
            foreach (ProjectRecord part in inside) Walk(part);
        }

        List<T> Own<T>(ProjectRecord owner) where T : ProjectRecord => [.. project.Referrers<T>(owner.Id).Where(r => r.ParentId == owner.Id).OrderBy(r => r.Name, StringComparer.Ordinal).ThenBy(r => r.Id)];

        List<ProjectRecord> OwnOf(ProjectRecord owner, RecordKind kind) => [.. project.Referrers(owner.Id).Where(r => r.GetType() == kind.Type && r.ParentId == owner.Id).OrderBy(r => r.Name, StringComparer.Ordinal).ThenBy(r => r.Id)];

        // A row is about its innermost record; what it stands in is named in the columns before.
        string[] Row(ProjectRecord owner, ProjectRecord? about, Point? of = null)
        {
            var lineage = project.Lineage(owner.Id).ToList();
            Place? At(PlaceKind kind) => lineage.OfType<Place>().FirstOrDefault(p => p.Kind == kind);
            Place? floor = At(PlaceKind.Floor), room = At(PlaceKind.Room);
            ProjectRecord it = about ?? owner;
            string? Cell(ListColumn column)
            {
                if (column == ListColumns.Building) return At(PlaceKind.Building)?.Name;
                if (column == ListColumns.Floor) return floor?.Name;
                if (column == ListColumns.Level) return floor is null ? null : FieldTexts.Say(floor.Order);
                if (column == ListColumns.Room) return room?.Name;
                if (column == ListColumns.Position) return it is Place { Kind: not PlaceKind.Floor } place ? FieldTexts.Say(place.Order) : null;
                if (column == ListColumns.Id) return it.Id.Value;
                ProjectRecord? named = column.Kind == Equipment.AsKind ? owner as Equipment : column.Kind == Point.AsKind ? about as Point ?? of
                    : column.Kind == Place.AsKind ? whole ? it as Place : room : it.GetType() == column.Kind!.Type ? it : null;
                if (column.Field is null) return named?.Name;
                // What a point says of itself stands in its own row only.
                return named is null || (named == of && about != of) ? null : column.Field.Write(project, named);
            }
            return [.. columns.Select(c => Cell(c) ?? "")];
        }
    }
}
