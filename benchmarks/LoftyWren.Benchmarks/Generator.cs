using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using NodaTime;

namespace LoftyWren.Benchmarks;

/// <summary>Projects in the demo's spirit at any size: rooms of one fan-coil each, four to a controller, three points to a room.</summary>
internal static class Generator
{
    public static Project Make(int points)
    {
        var records = new List<ProjectRecord>
        {
            new Place { Id = new("site"), Name = "Site", Kind = PlaceKind.Site, TimeZone = "Europe/London" },
            new Schedule { Id = new("hours"), Name = "Opening hours", PlaceId = new("site"), StateTexts = ["closed", "open"], Default = 0, Week = [new DayGroup { Days = [IsoDayOfWeek.Tuesday], Spans = [new Span { From = "09:00", To = "17:30", Value = 1 }] }] },
        };
        int rooms = points / 3;
        for (int i = 0; i < rooms; i++)
        {
            string building = $"b{i / 500}", floor = $"f{i / 25}", controller = $"c{i / 4}";
            if (i % 500 == 0) records.Add(new Place { Id = new(building), Name = building, Kind = PlaceKind.Building, In = new("site") });
            if (i % 25 == 0) records.Add(new Place { Id = new(floor), Name = floor, Kind = PlaceKind.Floor, In = new(building) });
            records.Add(new Place { Id = new($"r{i}"), Name = $"Room {i}", Kind = PlaceKind.Room, In = new(floor), AreaSquareMetres = 20 + (i % 30) });
            if (i % 4 == 0) records.Add(new Controller { Id = new(controller), Name = controller, PlaceId = new($"r{i}"), ModelId = "compact-20", DeviceInstance = i / 4 });
            records.Add(new Equipment { Id = new($"e{i}"), Name = "Fan-coil", Kind = "fan-coil", PlaceId = new($"r{i}") });
            Point temperature = new() { Id = new($"t{i}"), Name = "Room temperature", OwnerId = new($"r{i}"), Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" };
            Point setpoint = new() { Id = new($"s{i}"), Name = "Setpoint", OwnerId = new($"e{i}"), Kind = PointKind.Analog, Role = PointRole.Setpoint, Unit = "°C", Fallback = 20 };
            Point valve = new() { Id = new($"v{i}"), Name = "Heating valve", OwnerId = new($"e{i}"), Kind = PointKind.Analog, Role = PointRole.Command, Unit = "%", Low = 0, High = 100, Fallback = 0 };
            records.AddRange([temperature, setpoint, valve]);
            records.Add(Fitted(controller, temperature, $"UI{(i % 4) + 1}", Core.Signals.Signal.Pt1000));
            records.Add(Fitted(controller, setpoint, Fitting.MemoryTerminal, Core.Signals.Signal.Memory));
            records.Add(Fitted(controller, valve, $"AO{(i % 4) + 1}", Core.Signals.Signal.Volts));
            records.Add(Logic($"q{i}", new($"e{i}"), new(controller), temperature, setpoint, valve));
        }
        ChangeOutcome outcome = Changes.Apply(Project.Empty, new ChangeSet([.. records.Select(r => Edit.Of(r))], "generator", 0));
        return outcome.After ?? throw new InvalidOperationException(outcome.Refusals[0].Sentence);
    }

    public static Sequence Logic(string id, RecordId equipment, RecordId controller, Point temperature, Point setpoint, Point valve) => new()
    {
        Id = new(id),
        Name = "Fan-coil",
        EquipmentId = equipment,
        ControllerId = controller,
        Blocks =
        [
            new Block { Id = "aim", Kind = BlockKind.Sel, Inputs = new Dictionary<string, Source> { ["g"] = new ScheduleSource(new("hours")), ["in0"] = new ConstantSource(16, "°C"), ["in1"] = new PointSource(setpoint.Id) } },
            new Block { Id = "loop", Kind = BlockKind.Pid, Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(temperature.Id), ["setpoint"] = new BlockSource("aim") } },
            new Block { Id = "hold", Kind = BlockKind.Limit, Inputs = new Dictionary<string, Source> { ["low"] = new ConstantSource(5, "%"), ["in"] = new BlockSource("loop"), ["high"] = new ConstantSource(95, "%") } },
        ],
        Commands = [new OutputCommand { PointId = valve.Id, Claims = [new Claim { Priority = 14, Source = new BlockSource("hold") }] }],
    };

    private static Fitting Fitted(string controller, Point point, string terminal, Core.Signals.Signal signal) =>
        new() { Id = new($"x{point.Id}"), Name = terminal, ControllerId = new(controller), PointId = point.Id, Terminal = terminal, Signal = signal };
}
