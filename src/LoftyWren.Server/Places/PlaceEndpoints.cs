using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Places;

/// <summary>A place on the where bar.</summary>
public sealed record Crumb(RecordId Id, string Name, PlaceKind Kind, IReadOnlyList<CrumbChild> Siblings, IReadOnlyList<CrumbChild> Children);

/// <summary>A sibling or child of a crumb.</summary>
public sealed record CrumbChild(RecordId Id, string Name, PlaceKind Kind);

/// <summary>A building as its section draws it.</summary>
public sealed record Section(Place Building, long Revision, IReadOnlyList<SectionFloor> Floors, int Equipment, int Points);

/// <summary>One floor of a section, the highest first.</summary>
public sealed record SectionFloor(Place Floor, long Revision, IReadOnlyList<SectionRoom> Rooms, double Area);

/// <summary>One room of a floor.</summary>
public sealed record SectionRoom(Place Room, long Revision, IReadOnlyList<SectionEquipment> Equipment, int Points, int Findings);

/// <summary>One chip in a room.</summary>
public sealed record SectionEquipment(Equipment Equipment, long Revision, int Points, int Findings);

/// <summary>A floor in a list of floors, with how many rooms it has.</summary>
public sealed record FloorLine(RecordId Id, string Name, RecordId BuildingId, string Building, int Rooms);

/// <summary>A floor as operators see it.</summary>
public sealed record FloorView(Place Floor, string Building, IReadOnlyList<FloorRoom> Rooms, IReadOnlyList<string> Measures);

/// <summary>A room on a floor view: its outline, where its label goes, and which live points colour it by measure.</summary>
public sealed record FloorRoom(RecordId Id, string Name, IReadOnlyList<Corner> Outline, Corner Label, double LabelRadius, IReadOnlyList<FloorMeasure> Measures, IReadOnlyList<RecordId> Points);

/// <summary>One measure of a room: the sensor and, if there is one, the setpoint it is compared with.</summary>
public sealed record FloorMeasure(string Name, RecordId PointId, RecordId? SetpointId, string? Unit, string? DifferenceUnit);

internal static class PlaceEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/places/{id}/crumbs", Results<Ok<List<Crumb>>, ProblemHttpResult> (string id, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(id) || project.Find(new RecordId(id)) is null) return Problems.Missing("place");
            return TypedResults.Ok(project.Lineage(new RecordId(id)).OfType<Place>().Reverse().Select(p => new Crumb(p.Id, p.Name, p.Kind, p.In is { } parent ? Children(project, parent) : [], Children(project, p.Id))).ToList());
        }).For(Role.Viewer);
        api.MapGet("/buildings", (Workspace workspace) => workspace.Project.All<Place>().Where(p => p.Kind == PlaceKind.Building).OrderBy(p => p.Order).ThenBy(p => p.Name, NaturalOrder.Names).ToList()).For(Role.Viewer);
        api.MapGet("/buildings/{id}/section", Results<Ok<Section>, ProblemHttpResult> (string id, Workspace workspace) =>
            RecordId.IsValid(id) && workspace.Project.Find(new RecordId(id)) is Place { Kind: PlaceKind.Building } building ? TypedResults.Ok(SectionOf(workspace, building)) : Problems.Missing("building")).For(Role.Viewer);
        api.MapGet("/floors", (Workspace workspace) => FloorsOf(workspace.Project)).For(Role.Viewer);
        api.MapGet("/floors/{id}/view", Results<Ok<FloorView>, ProblemHttpResult> (string id, Workspace workspace) =>
            RecordId.IsValid(id) && workspace.Project.Find(new RecordId(id)) is Place { Kind: PlaceKind.Floor } floor ? TypedResults.Ok(FloorOf(workspace.Project, floor)) : Problems.Missing("floor")).For(Role.Viewer);
    }

    /// <summary>Every floor, building by building, the topmost first.</summary>
    private static List<FloorLine> FloorsOf(Project project) =>
    [
        .. project.All<Place>().Where(p => p.Kind == PlaceKind.Building).OrderBy(b => b.Order).ThenBy(b => b.Name, NaturalOrder.Names)
            .SelectMany(b => project.Referrers<Place>(b.Id).Where(f => f.In == b.Id).OrderByDescending(f => f.Order).ThenBy(f => f.Name, NaturalOrder.Names)
                .Select(f => new FloorLine(f.Id, f.Name, b.Id, b.Name, project.Referrers<Place>(f.Id).Count(r => r.In == f.Id)))),
    ];

    private static Section SectionOf(Workspace workspace, Place building)
    {
        Project project = workspace.Project;
        int equipment = 0, points = 0;
        var floors = new List<SectionFloor>();
        foreach (Place floor in project.Referrers<Place>(building.Id).OrderByDescending(f => f.Order).ThenBy(f => f.Name, NaturalOrder.Names))
        {
            var rooms = new List<SectionRoom>();
            foreach (Place room in project.Referrers<Place>(floor.Id).OrderBy(r => r.Order).ThenBy(r => r.Name, NaturalOrder.Names))
            {
                var chips = project.Referrers<Equipment>(room.Id).Where(e => e.PlaceId == room.Id).OrderBy(e => e.Name, NaturalOrder.Names)
                    .Select(e => new SectionEquipment(e, project.FindEntry(e.Id)!.Revision, project.Referrers<Point>(e.Id).Count(), FindingsOn(workspace, e.Id))).ToList();
                int own = project.Referrers<Point>(room.Id).Count() + chips.Sum(c => c.Points);
                equipment += chips.Count;
                points += own;
                rooms.Add(new SectionRoom(room, project.FindEntry(room.Id)!.Revision, chips, own, FindingsOn(workspace, room.Id) + chips.Sum(c => c.Findings)));
            }
            floors.Add(new SectionFloor(floor, project.FindEntry(floor.Id)!.Revision, rooms, rooms.Sum(r => r.Room.AreaSquareMetres ?? 0)));
        }
        return new Section(building, project.FindEntry(building.Id)!.Revision, floors, equipment, points);
    }

    private static int FindingsOn(Workspace workspace, RecordId owner) =>
        workspace.Findings.On(owner).Count + workspace.Project.Referrers<Point>(owner).Sum(p => workspace.Findings.On(p.Id).Count);

    private static FloorView FloorOf(Project project, Place floor)
    {
        var rooms = new List<FloorRoom>();
        foreach (Place room in project.Referrers<Place>(floor.Id).Where(r => r.Kind == PlaceKind.Room).OrderBy(r => r.Order).ThenBy(r => r.Name, NaturalOrder.Names))
        {
            var points = RecordOrder.Points(project, room.Id).ToList();
            var measures = new List<FloorMeasure>();
            foreach (var (name, unit) in new[] { ("Temperature", "°C"), ("Humidity", "%RH"), ("CO₂", "ppm") })
            {
                // The room's own sensor, or one that is compared with a setpoint, speaks for the room before any machine's.
                Point? sensor = points.Where(p => p.Role == PointRole.Sensor && p.Kind == PointKind.Analog && p.Unit == unit)
                    .Where(p => p.OwnerId == room.Id || p.SetpointId is not null || project.Find<Equipment>(p.OwnerId)?.Kind is "fan-coil" or "room sensors" or "radiator")
                    .OrderByDescending(p => p.SetpointId is not null).ThenByDescending(p => p.OwnerId == room.Id).FirstOrDefault();
                if (sensor is not null) measures.Add(new FloorMeasure(name, sensor.Id, sensor.SetpointId, sensor.Unit, Core.Units.Unit.Find(sensor.Unit)?.Difference.Symbol));
            }
            if (points.FirstOrDefault(p => p.Kind == PointKind.Binary && p.Role == PointRole.Sensor && p.Name.Contains("presence", StringComparison.OrdinalIgnoreCase)) is { } presence)
                measures.Add(new FloorMeasure("Presence", presence.Id, null, null, null));
            Corner label = room.Outline.Count >= 3 ? Outlines.VisualCentre(room.Outline) : default;
            rooms.Add(new FloorRoom(room.Id, room.Name, room.Outline, label, room.Outline.Count >= 3 ? Outlines.SignedDistance(room.Outline, label.X, label.Y) : 0, measures, [.. points.Select(p => p.Id)]));
        }
        return new FloorView(floor, project.Find(floor.In!.Value)?.Name ?? "", rooms, [.. rooms.SelectMany(r => r.Measures.Select(m => m.Name)).Distinct()]);
    }

    private static List<CrumbChild> Children(Project project, RecordId id) =>
        [.. project.Referrers<Place>(id).Where(p => p.In == id).OrderByDescending(p => p.Kind == PlaceKind.Floor ? p.Order : -p.Order).ThenBy(p => p.Name, NaturalOrder.Names).Select(p => new CrumbChild(p.Id, p.Name, p.Kind))];
}
