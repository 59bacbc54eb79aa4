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

    /// <summary>The list. Rooms and equipment without points have a row of their own.</summary>
    public static Sheet Of(Project project, RecordId scope)
    {
        var rows = new List<string[]> { Columns.Select(c => c.Header).ToArray() };
        if (project.Find(scope) is { } root) Walk(root);
        return new Sheet("Points", rows);

        void Walk(ProjectRecord record)
        {
            var points = project.Referrers<Point>(record.Id).Where(p => p.OwnerId == record.Id).OrderBy(p => p.Name, StringComparer.Ordinal).ThenBy(p => p.Id).ToList();
            var inside = project.Referrers(record.Id).Where(r => r is Place or Equipment && r.ParentId == record.Id)
                .OrderBy(r => r is Equipment ? 0 : 1).ThenBy(r => r is Place { Kind: PlaceKind.Floor } p ? p.Order : 0).ThenBy(r => r.Name, StringComparer.Ordinal).ThenBy(r => r.Id).ToList();
            if (points.Count == 0 && inside.Count == 0 && record is not Place { Kind: PlaceKind.Site }) rows.Add(Row(record, null));
            foreach (Point point in points) rows.Add(Row(record, point));
            foreach (ProjectRecord part in inside) Walk(part);
        }

        string[] Row(ProjectRecord owner, Point? point)
        {
            var lineage = project.Lineage(owner.Id).ToList();
            Place? At(PlaceKind kind) => lineage.OfType<Place>().FirstOrDefault(p => p.Kind == kind);
            Place? floor = At(PlaceKind.Floor), room = At(PlaceKind.Room);
            return [.. Columns.Select(c => c.Field switch
            {
                ListField.Building => At(PlaceKind.Building)?.Name,
                ListField.Floor => floor?.Name,
                ListField.Level => floor is null ? null : Say(floor.Order),
                ListField.Room => room?.Name,
                ListField.ShortName => room?.ShortName,
                ListField.Area => Say(room?.AreaSquareMetres),
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
                _ => point?.Tags is { } tags ? string.Join(" ", tags.OrderBy(t => t.Key, StringComparer.Ordinal).Select(t => t.Value == "M" ? t.Key : $"{t.Key}:{t.Value}")) : null,
            }).Select(cell => cell ?? "")];
        }

        static string? Say(double? value) => value?.ToString("R", CultureInfo.InvariantCulture);
    }
}
