using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Places;
using LoftyWren.Core.Plant;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>
/// The stand-in for builders and electricians: makes a plan of the site from the drawings, once, when told to. Afterwards
/// the site knows nothing of the project; what is drawn later is not there until it is built.
/// </summary>
public static class SiteBuilder
{
    /// <summary>The whole site as the project draws it. Faults and seed are taken from what stands, if anything does; so are wires that nobody chose otherwise, see <see cref="WiresOf"/>.</summary>
    public static SitePlan Build(Project project, SitePlan? earlier = null)
    {
        var rooms = project.All<Place>().Where(p => p.Kind == PlaceKind.Room).OrderBy(p => p.Id).ToList();
        var machines = project.All<Equipment>().OrderBy(e => e.Id).ToList();
        var heated = machines.Where(m => EquipmentKind.Find(m.Kind).HeatsRoom).Select(m => m.PlaceId).ToHashSet();
        var hot = machines.Where(m => EquipmentKind.Find(m.Kind).HasOwnHeat).Select(m => m.PlaceId).ToHashSet();
        var there = earlier?.Wires.ToLookup(w => w.ControllerId);
        var wires = HostKinds.HostsOf(project).OrderBy(h => h.Id).SelectMany(h => WiresOf(project, h.Id, there?[h.Id].ToList())).ToList();
        var driven = wires.Select(w => w.Quantity).ToHashSet();
        var controlled = machines.Where(m => driven.Contains($"machine/{m.Id}/level")).Select(m => m.PlaceId).ToHashSet();
        var among = rooms.Select(r => r.Id).ToHashSet();
        var byFloor = rooms.Where(r => r.Outline.Count >= 3).ToLookup(r => r.In);
        return new SitePlan
        {
            Seed = earlier?.Seed ?? 41,
            TimeZone = project.Site?.TimeZone ?? "UTC",
            // Where no fan-coil is under control, the old radiators go on by themselves.
            Rooms = [.. rooms.Select(r => RoomOf(r, byFloor[r.In], among, hot.Contains(r.Id), heated.Contains(r.Id) && controlled.Contains(r.Id)))],
            Machines = [.. machines.Select(m => MachineOf(project, m))],
            Wires = wires,
            Faults = earlier?.Faults ?? [],
            MediumFaults = earlier?.MediumFaults ?? [],
        };
    }

    /// <summary>
    /// Of the site what some points are tied to: those rooms and machines, what is part of them and what they feed, with the rooms
    /// of all. What feeds them from outside has enough to give; walls to other rooms let nothing through.
    /// </summary>
    public static SitePlan Around(Project project, IEnumerable<Point> points)
    {
        var rooms = new SortedDictionary<RecordId, Place>();
        var machines = new SortedDictionary<RecordId, Equipment>();
        var waiting = new Queue<Equipment>();
        var driven = new HashSet<RecordId>();
        void Meet(ProjectRecord? thing)
        {
            if (thing is Place { Kind: PlaceKind.Room } room) rooms.TryAdd(room.Id, room);
            else if (thing is Equipment machine && machines.Count < MostAround && machines.TryAdd(machine.Id, machine)) waiting.Enqueue(machine);
        }
        foreach (Point point in points)
        {
            if (PlantTies.Of(project, point) is not { Thing: { } id } tied) continue;
            Meet(project.Find(id));
            if (point.Role == PointRole.Command && tied.Quantity == "level") driven.Add(id);
        }
        while (waiting.TryDequeue(out Equipment? machine))
        {
            Meet(project.Find(machine.PlaceId));
            Meet(project.Find<Equipment>(machine.PartOf));
            foreach (Equipment other in project.Referrers<Equipment>(machine.Id).Where(e => e.PartOf == machine.Id || e.WaterFrom == machine.Id || e.ColdFrom == machine.Id || e.AirFrom == machine.Id).OrderBy(e => e.Id)) Meet(other);
        }
        var among = rooms.Keys.ToHashSet();
        var byFloor = rooms.Values.Where(r => r.Outline.Count >= 3).ToLookup(r => r.In);
        bool isIn(Place room, Func<Equipment, bool> what) => machines.Values.Any(m => m.PlaceId == room.Id && what(m));
        return new SitePlan
        {
            TimeZone = project.Site?.TimeZone ?? "UTC",
            Rooms = [.. rooms.Values.Select(r => RoomOf(r, byFloor[r.In], among, isIn(r, m => EquipmentKind.Find(m.Kind).HasOwnHeat), isIn(r, m => EquipmentKind.Find(m.Kind).HeatsRoom && driven.Contains(m.Id))))],
            Machines = [.. machines.Values.Select(m => MachineOf(project, m))],
        };
    }

    private const int MostAround = 400;

    private static SiteRoom RoomOf(Place room, IEnumerable<Place> ofItsFloor, HashSet<RecordId> among, bool isHot, bool isHeated) => new()
    {
        Id = room.Id,
        Name = room.Name,
        AreaSquareMetres = AreaOf(room),
        People = isHot ? 0 : Math.Round(AreaOf(room) / 14),
        BackgroundHeating = !isHot && !isHeated,
        Walls = [.. WallsOf(room, ofItsFloor).Where(w => among.Contains(w.Room))],
    };

    private static SiteMachine MachineOf(Project project, Equipment m) => new() { Id = m.Id, Name = m.Name, Kind = m.Kind, Room = project.Find<Place>(m.PlaceId) is { Kind: PlaceKind.Room } room ? room.Id : null, PartOf = m.PartOf, WaterFrom = m.WaterFrom, ColdFrom = m.ColdFrom, AirFrom = m.AirFrom };

    /// <summary>
    /// The wires of one controller or device, as its wiring list draws them. A point for which the site has nothing gets no wire. Where
    /// nobody has chosen what a point is tied to, a wire that is there already for the same point stays tied as it was:
    /// nobody rewires what was only called something else.
    /// </summary>
    public static IEnumerable<Wire> WiresOf(Project project, RecordId host, IReadOnlyCollection<Wire>? built = null)
    {
        foreach (Fitting fitting in project.Referrers<Fitting>(host).Where(f => f.Terminal != Fitting.MemoryTerminal).OrderBy(f => f.Terminal, StringComparer.Ordinal))
        {
            if (project.Find<Point>(fitting.PointId) is not { } point) continue;
            string name = $"{project.Find(point.OwnerId)?.Name} · {point.Name}";
            // A wire that was built before points were noted is known by what it is called.
            bool isChosen = PlantTies.Chosen(project, point.Id) is not null;
            Wire? there = isChosen ? null : built?.FirstOrDefault(w => w.Terminal == fitting.Terminal && !w.IsChosen && (w.PointId == point.Id || (w.PointId is null && w.Name == name)) && IsThere(project, w.Quantity));
            if ((there?.Quantity ?? QuantityOf(project, point)) is not { } quantity) continue;
            yield return new Wire
            {
                ControllerId = host,
                Terminal = fitting.Terminal,
                PointId = point.Id,
                IsChosen = isChosen,
                Direction = point.Role == PointRole.Sensor ? Direction.In : Direction.Out,
                Signal = fitting.Signal,
                Low = fitting.Low,
                High = fitting.High,
                Inverted = fitting.Inverted,
                LeadOhms = fitting.LeadOhms,
                PerPulse = fitting.PerPulse,
                Curve = project.Find<SensorCurve>(fitting.CurveId)?.InWords,
                RunTimeSeconds = fitting.RunTimeSeconds,
                Quantity = quantity,
                Name = name,
                Unit = point.Unit,
            };
        }
    }

    /// <summary>What in the plant a point stands for, under the name that the plant has for it; null when the site has no such thing.</summary>
    public static string? QuantityOf(Project project, Point point) => PlantTies.Of(project, point) is { } tied ? NameOf(project, tied) : null;

    private static string NameOf(Project project, Tied tied) => tied.Thing is not { } thing ? $"outdoor/{tied.Quantity}" : $"{(project.Find(thing) is Equipment ? "machine" : "room")}/{thing}/{tied.Quantity}";

    /// <summary>Whether the room or the machine of a quantity is still drawn.</summary>
    private static bool IsThere(Project project, string quantity) => quantity.Split('/') is not [_, var thing, _] || project.Find(new RecordId(thing)) is not null;

    private static double AreaOf(Place room) => room.AreaSquareMetres ?? (room.Outline.Count >= 3 ? Outlines.Area(room.Outline) : 20);

    /// <summary>Walls to the rooms whose outlines touch; three metres high.</summary>
    private static IReadOnlyList<SharedWall> WallsOf(Place room, IEnumerable<Place> ofItsFloor)
    {
        var walls = new List<SharedWall>();
        if (room.Outline.Count < 3) return walls;
        foreach (Place other in ofItsFloor.Where(o => o.Id != room.Id))
        {
            double length = 0;
            for (int i = 0; i < room.Outline.Count; i++)
            {
                for (int j = 0; j < other.Outline.Count; j++)
                    length += Overlap(room.Outline[i], room.Outline[(i + 1) % room.Outline.Count], other.Outline[j], other.Outline[(j + 1) % other.Outline.Count]);
            }
            if (length > 0.1) walls.Add(new SharedWall(other.Id, length * 3));
        }
        return walls;
    }

    /// <summary>How far two level or upright edges run along each other, in metres; edges within 0.3 m of one line share a wall.</summary>
    private static double Overlap(Corner a, Corner b, Corner c, Corner d)
    {
        bool upright = Math.Abs(a.X - b.X) < 0.01 && Math.Abs(c.X - d.X) < 0.01 && Math.Abs(a.X - c.X) < 0.3;
        bool level = Math.Abs(a.Y - b.Y) < 0.01 && Math.Abs(c.Y - d.Y) < 0.01 && Math.Abs(a.Y - c.Y) < 0.3;
        return upright ? Common(a.Y, b.Y, c.Y, d.Y) : level ? Common(a.X, b.X, c.X, d.X) : 0;

        static double Common(double p, double q, double r, double s) => Math.Max(0, Math.Min(Math.Max(p, q), Math.Max(r, s)) - Math.Max(Math.Min(p, q), Math.Min(r, s)));
    }
}
