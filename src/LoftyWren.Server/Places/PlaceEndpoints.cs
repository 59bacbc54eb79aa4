using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Trends;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.History;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;
using NodaTime.Text;

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

/// <summary>One chip in a room, and what the equipment gives it.</summary>
public sealed record SectionEquipment(Equipment Equipment, long Revision, int Points, int Findings, Service Service);

/// <summary>A floor in a list of floors, with how many rooms it has.</summary>
public sealed record FloorLine(RecordId Id, string Name, RecordId BuildingId, string Building, int Rooms);

/// <summary>A place in a list of places of one kind, with how much equipment stands in it.</summary>
public sealed record PlaceLine(RecordId Id, string Name, string Path, int Equipment);

/// <summary>A floor as operators see it.</summary>
public sealed record FloorView(Place Floor, string Building, IReadOnlyList<FloorRoom> Rooms, IReadOnlyList<RoomMeasure> Measures);

/// <summary>A room on a floor view: its outline, where its label goes, and which live points colour it by measure.</summary>
public sealed record FloorRoom(RecordId Id, string Name, IReadOnlyList<Corner> Outline, Corner Label, double LabelRadius, IReadOnlyList<FloorMeasure> Measures, IReadOnlyList<RecordId> Points);

/// <summary>One measure of a room: the sensor and, if there is one, the setpoint it is compared with.</summary>
public sealed record FloorMeasure(string Name, RecordId PointId, RecordId? SetpointId);

/// <summary>What a point of a floor read at a moment that has gone: its value, status flags as live values have them, and how it is said.</summary>
public sealed record PastValue(RecordId PointId, double? Value, int Flags, string Text);

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
        api.MapGet("/places", Results<Ok<List<PlaceLine>>, ProblemHttpResult> (string kind, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!Enum.TryParse(kind, ignoreCase: true, out PlaceKind wanted) || !Enum.IsDefined(wanted)) return Problems.Refused($"‘{kind}’ is no kind of place. Ask for site, building, floor or room.");
            return TypedResults.Ok(project.All<Place>().Where(p => p.Kind == wanted).Select(p => new PlaceLine(p.Id, p.Name, project.PathOf(p.Id), project.Referrers<Equipment>(p.Id).Count(e => e.PlaceId == p.Id)))
                .OrderBy(p => p.Path, NaturalOrder.Names).ThenBy(p => p.Name, NaturalOrder.Names).ToList());
        }).For(Role.Viewer);
        api.MapGet("/floors", (Workspace workspace) => FloorsOf(workspace.Project)).For(Role.Viewer);
        api.MapGet("/floors/{id}/view", Results<Ok<FloorView>, ProblemHttpResult> (string id, Workspace workspace) =>
            RecordId.IsValid(id) && workspace.Project.Find(new RecordId(id)) is Place { Kind: PlaceKind.Floor } floor ? TypedResults.Ok(FloorOf(workspace.Project, floor)) : Problems.Missing("floor")).For(Role.Viewer);
        api.MapPost("/floors/{id}/outlines", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(id) || project.Find(new RecordId(id)) is not Place { Kind: PlaceKind.Floor } floor) return Problems.Missing("floor");
            var proposed = Outlines.Propose([.. project.Referrers<Place>(floor.Id).Where(r => r.Kind == PlaceKind.Room).OrderBy(r => r.Order).ThenBy(r => r.Name, NaturalOrder.Names)]);
            if (proposed.Count == 0) return Problems.Refused($"Every room of {floor.Name} has an outline already.");
            return ProjectEndpoints.Answer(workspace.Apply([.. proposed.Select(r => Edit.Of(r, project.FindEntry(r.Id)!.Revision))], http.User.Identity!.Name!, $"Proposed outlines for {proposed.Count} rooms of ‘{floor.Name}’"));
        }).For(Role.Engineer);
        api.MapGet("/floors/{id}/past", Results<Ok<List<PastValue>>, ProblemHttpResult> (string id, string at, Workspace workspace, HistoryStore history) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(id) || project.Find(new RecordId(id)) is not Place { Kind: PlaceKind.Floor } floor) return Problems.Missing("floor");
            if (LocalDateTimePattern.CreateWithInvariantCulture("yyyy-MM-dd HH:mm").Parse(at) is not { Success: true } moment) return Problems.Refused($"‘{at}’ is not a moment. Write 2026-03-09 07:20, in the time of the site.");
            DateTimeZone zone = DateTimeZoneProviders.Tzdb.GetZoneOrNull(project.Site?.TimeZone ?? "UTC") ?? DateTimeZone.Utc;
            return TypedResults.Ok(PastOf(project, floor, moment.Value.InZoneLeniently(zone).ToInstant().ToUnixTimeMilliseconds(), history));
        }).For(Role.Viewer);
    }

    /// <summary>What the measures of a floor were at a moment, as far as their trends tell: the last sample before it, where that is no older than a log of its kind lets it be.</summary>
    private static List<PastValue> PastOf(Project project, Place floor, long at, HistoryStore history)
    {
        var values = new List<PastValue>();
        foreach (RecordId id in FloorOf(project, floor).Rooms.SelectMany(r => r.Measures).SelectMany(m => new[] { m.PointId, m.SetpointId ?? m.PointId }).Distinct())
        {
            Point point = project.Find<Point>(id)!;
            foreach (TrendLog log in project.Referrers<TrendLog>(id).Where(l => l.PointId == id))
            {
                if (history.LastBefore(log.Id, at + 1) is not { } sample || (log.Mode == TrendMode.Interval && at - sample.AtMilliseconds > log.IntervalSeconds * 2500)) continue;
                double? value = double.IsFinite(sample.Value) ? sample.Value : null;
                values.Add(new PastValue(id, value, (int)sample.Status, value is { } v ? ValueText.Of(v, point.Kind, point.Unit, point.StateTexts) : "–"));
                break;
            }
        }
        return values;
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
                    .Select(e => new SectionEquipment(e, project.FindEntry(e.Id)!.Revision, project.Referrers<Point>(e.Id).Count(), FindingsOn(workspace, e.Id), EquipmentKind.Find(e.Kind).Service)).ToList();
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
            foreach (RoomMeasure measure in RoomMeasure.All.Where(m => m.Unit is not null))
            {
                // The room's own sensor, or one that is compared with a setpoint, speaks for the room before any machine's.
                Point? sensor = points.Where(p => p.Role == PointRole.Sensor && p.Kind == PointKind.Analog && p.Unit == measure.Unit)
                    .Where(p => p.OwnerId == room.Id || p.SetpointId is not null || (project.Find<Equipment>(p.OwnerId) is { } host && EquipmentKind.Find(host.Kind).SensesRoom))
                    .OrderByDescending(p => p.SetpointId is not null).ThenByDescending(p => p.OwnerId == room.Id).FirstOrDefault();
                if (sensor is not null) measures.Add(new FloorMeasure(measure.Name, sensor.Id, sensor.SetpointId));
            }
            if (points.FirstOrDefault(p => p.Kind == PointKind.Binary && p.Role == PointRole.Sensor && p.Name.Contains("presence", StringComparison.OrdinalIgnoreCase)) is { } presence)
                measures.Add(new FloorMeasure(RoomMeasure.Presence.Name, presence.Id, null));
            Corner label = room.Outline.Count >= 3 ? Outlines.VisualCentre(room.Outline) : default;
            rooms.Add(new FloorRoom(room.Id, room.Name, room.Outline, label, room.Outline.Count >= 3 ? Outlines.SignedDistance(room.Outline, label.X, label.Y) : 0, measures, [.. points.Select(p => p.Id)]));
        }
        return new FloorView(floor, project.Find(floor.In!.Value)?.Name ?? "", rooms, [.. RoomMeasure.All.Where(m => rooms.Any(r => r.Measures.Any(x => x.Name == m.Name)))]);
    }

    private static List<CrumbChild> Children(Project project, RecordId id) =>
        [.. project.Referrers<Place>(id).Where(p => p.In == id).OrderByDescending(p => p.Kind == PlaceKind.Floor ? p.Order : -p.Order).ThenBy(p => p.Name, NaturalOrder.Names).Select(p => new CrumbChild(p.Id, p.Name, p.Kind))];
}
