using System.Globalization;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.PointLists;

/// <summary>The places, equipment and points below a record as a list, in an order that does not change: the list that <see cref="ListImport"/> reads back.</summary>
public static class ListExport
{
    private static readonly (string Header, ListField Field)[] Columns =
    [
        ("Building", ListField.Building), ("Floor", ListField.Floor), ("Level", ListField.Level), ("Room", ListField.Room), ("Short name", ListField.ShortName), ("Area m²", ListField.Area),
        ("Equipment", ListField.Equipment), ("Equipment kind", ListField.EquipmentKind), ("Point", ListField.Point), ("Kind", ListField.Kind), ("Role", ListField.Role), ("Unit", ListField.Unit),
        ("States", ListField.States), ("Low", ListField.Low), ("High", ListField.High), ("Fallback", ListField.Fallback), ("Description", ListField.Description), ("Tags", ListField.Tags),
    ];

    /// <summary>The mapping that reads an export back.</summary>
    public static ListMapping Mapping { get; } = new() { HeaderRow = 0, Columns = [.. Columns.Select(c => c.Field)], BlankIsAbove = false };

    /// <summary>What is only in a whole list: ids, and what a drawing or a floor view needs.</summary>
    private static readonly (string Header, ListField Field)[] More = [("Compared with", ListField.ComparedWith), ("Position", ListField.Position), ("Outline", ListField.Outline), ("Id", ListField.Id)];

    /// <summary>
    /// The list. Rooms and equipment without points have a row of their own; in a whole list every record has, with its id,
    /// so that it is found again whatever it is called by then.
    /// </summary>
    public static Sheet Of(Project project, RecordId scope, bool whole = false)
    {
        var columns = whole ? [.. Columns, .. More] : Columns;
        var rows = new List<string[]> { columns.Select(c => c.Header).ToArray() };
        if (project.Find(scope) is { } root) Walk(root);
        return new Sheet("Points", rows);

        void Walk(ProjectRecord record)
        {
            var points = project.Referrers<Point>(record.Id).Where(p => p.OwnerId == record.Id).OrderBy(p => p.Name, StringComparer.Ordinal).ThenBy(p => p.Id).ToList();
            var inside = project.Referrers(record.Id).Where(r => r is Place or Equipment && r.ParentId == record.Id)
                .OrderBy(r => r is Equipment ? 0 : 1).ThenBy(r => r is Place { Kind: PlaceKind.Floor } p ? p.Order : 0).ThenBy(r => r.Name, StringComparer.Ordinal).ThenBy(r => r.Id).ToList();
            if ((whole || (points.Count == 0 && inside.Count == 0)) && record is not Place { Kind: PlaceKind.Site }) rows.Add(Row(record, null));
            foreach (Point point in points) rows.Add(Row(record, point));
            foreach (ProjectRecord part in inside) Walk(part);
        }

        string[] Row(ProjectRecord owner, Point? point)
        {
            var lineage = project.Lineage(owner.Id).ToList();
            Place? At(PlaceKind kind) => lineage.OfType<Place>().FirstOrDefault(p => p.Kind == kind);
            Place? floor = At(PlaceKind.Floor), room = At(PlaceKind.Room);
            return [.. columns.Select(c => c.Field switch
            {
                ListField.Building => At(PlaceKind.Building)?.Name,
                ListField.Floor => floor?.Name,
                ListField.Level => floor is null ? null : Say(floor.Order),
                ListField.Room => room?.Name,
                ListField.ShortName => whole ? point is null ? (owner as Place)?.ShortName : null : room?.ShortName,
                ListField.Area => !whole || (owner == room && point is null) ? Say(room?.AreaSquareMetres) : null,
                ListField.Equipment => (owner as Equipment)?.Name,
                ListField.EquipmentKind => (owner as Equipment)?.Kind,
                ListField.Point => point?.Name,
                ListField.Kind => point?.Kind.ToString().ToLowerInvariant(),
                ListField.Role => point?.Role.ToString().ToLowerInvariant(),
                ListField.Unit => point?.Unit,
                ListField.States => point is null ? null : string.Join(" · ", point.StateTexts),
                ListField.Low => Say(point?.Low),
                ListField.High => Say(point?.High),
                ListField.Fallback => Say(point?.Fallback),
                ListField.Description => point?.Description,
                ListField.Id => (point?.Id ?? owner.Id).Value,
                ListField.Position => point is null && owner is Place { Kind: not PlaceKind.Floor } place ? Say(place.Order) : null,
                ListField.Outline => point is null && owner is Place { Outline.Count: > 0 } drawn ? string.Join(' ', drawn.Outline.Select(c => $"{Say(c.X)},{Say(c.Y)}")) : null,
                ListField.ComparedWith => point?.SetpointId is { } setpoint ? project.Find<Point>(setpoint) is { } to && to.OwnerId == point.OwnerId ? to.Name : setpoint.Value : null,
                _ => point?.Tags is { } tags ? string.Join(" ", tags.OrderBy(t => t.Key, StringComparer.Ordinal).Select(t => t.Value == "M" ? t.Key : $"{t.Key}:{t.Value}")) : null,
            }).Select(cell => cell ?? "")];
        }

        static string? Say(double? value) => value?.ToString("R", CultureInfo.InvariantCulture);
    }
}
