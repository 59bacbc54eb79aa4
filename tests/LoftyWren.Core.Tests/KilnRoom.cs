using LoftyWren.Core.Controllers;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;
using NodaTime;

namespace LoftyWren.Core.Tests;

/// <summary>The kiln room of the demo in its smallest form: a sensor, a limit, a fan, one schedule at 16, one two-position block at 10.</summary>
public static class KilnRoom
{
    public static readonly RecordId Site = new("site"), Building = new("kiln-house"), Floor = new("first"), Room = new("kiln-room"),
        Fan = new("fan-eq"), Temperature = new("room-temp"), Limit = new("high-limit"), FanCommand = new("fan-cmd"),
        Controller = new("kh-c1"), Sequence = new("fan-seq"), Hours = new("hours");

    public static readonly DateTimeZone London = DateTimeZoneProviders.Tzdb["Europe/London"];

    public static Project Project(string idle = "release", double differential = 2.0)
    {
        ProjectRecord[] records =
        [
            new Place { Id = Site, Name = "Saltmarsh Pottery", Kind = PlaceKind.Site, TimeZone = "Europe/London" },
            new Place { Id = Building, Name = "Kiln House", Kind = PlaceKind.Building, In = Site },
            new Place { Id = Floor, Name = "First floor", Kind = PlaceKind.Floor, In = Building, Order = 1 },
            new Place { Id = Room, Name = "Kiln room", Kind = PlaceKind.Room, In = Floor, AreaSquareMetres = 60 },
            new Equipment { Id = Fan, Name = "Extract", Kind = "extract fan", PlaceId = Room },
            new Point { Id = Temperature, Name = "Room temperature", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" },
            new Point { Id = Limit, Name = "High limit", OwnerId = Fan, Kind = PointKind.Analog, Role = PointRole.Setpoint, Unit = "°C", Fallback = 29 },
            new Point { Id = FanCommand, Name = "Extract fan", OwnerId = Fan, Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"], Fallback = 0 },
            new Controller { Id = Controller, Name = "KH-C1", PlaceId = Room, ModelId = "compact-20", DeviceInstance = 2101 },
            new Fitting { Id = new("f1"), Name = "UI1", ControllerId = Controller, PointId = Temperature, Terminal = "UI1", Signal = Signal.Pt1000 },
            new Fitting { Id = new("f2"), Name = "RO1", ControllerId = Controller, PointId = FanCommand, Terminal = "RO1", Signal = Signal.Relay },
            new Fitting { Id = new("f3"), Name = "value", ControllerId = Controller, PointId = Limit, Terminal = "value", Signal = Signal.Memory },
            new Schedule
            {
                Id = Hours, Name = "Opening hours", PlaceId = Site, StateTexts = ["closed", "open"], Default = 0,
                Week =
                [
                    new DayGroup { Days = [IsoDayOfWeek.Tuesday, IsoDayOfWeek.Wednesday, IsoDayOfWeek.Thursday, IsoDayOfWeek.Friday], Spans = [new Span { From = "09:00", To = "17:30", Value = 1 }] },
                    new DayGroup { Days = [IsoDayOfWeek.Saturday, IsoDayOfWeek.Sunday], Spans = [new Span { From = "10:00", To = "16:00", Value = 1 }] },
                ],
                Drives = [new Drive(FanCommand, 16)],
            },
            new Sequence
            {
                Id = Sequence, Name = "Kiln room extract", EquipmentId = Fan, ControllerId = Controller,
                Blocks =
                [
                    new Block
                    {
                        Id = "high", Kind = BlockKind.TwoPosition,
                        Numbers = new Dictionary<string, double> { ["differential"] = differential },
                        Choices = new Dictionary<string, string> { ["idle"] = idle },
                        Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(Temperature), ["limit"] = new PointSource(Limit) },
                    },
                ],
                Commands = [new OutputCommand { PointId = FanCommand, Claims = [new Claim { Priority = 10, Label = "High temperature", Source = new BlockSource("high") }] }],
            },
        ];
        return Accept(Core.Projects.Project.Empty, records);
    }

    public static Project Accept(Project project, params ProjectRecord[] records) => Accept(project, [.. records.Select(r => Edit.Of(r))]);

    public static Project Accept(Project project, params Edit[] edits)
    {
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(edits, "engineer", 0));
        Assert.True(outcome.Accepted, string.Join("\n", outcome.Refusals.Select(r => $"{r.RecordId} {r.Field}: {r.Sentence}")));
        return outcome.After!;
    }

    public static IReadOnlyList<Refusal> Refused(Project project, params Edit[] edits)
    {
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(edits, "engineer", 0));
        Assert.False(outcome.Accepted);
        return outcome.Refusals;
    }

    /// <summary>Asserts that a project does not take a record, and says exactly why and in which field.</summary>
    public static void Refuses(Project project, ProjectRecord record, string field, string sentence)
    {
        var refusals = Refused(project, Edit.Of(record));
        Assert.Contains((record.Id, field, sentence), refusals.Select(r => (r.RecordId, r.Field, r.Sentence)));
    }

    public static ControllerEngine Engine(Project project) => new(ControllerImage.Build(project, project.Find<Controller>(Controller)!));

    /// <summary>Site time of a local moment in London.</summary>
    public static long At(int year, int month, int day, int hour, int minute, int second = 0) =>
        London.AtStrictly(new LocalDateTime(year, month, day, hour, minute, second)).ToInstant().ToUnixTimeMilliseconds();

    /// <summary>Sets the room's temperature at the terminal, as a Pt1000 gives it, and scans.</summary>
    public static void ScanAt(this ControllerEngine engine, long now, double celsius)
    {
        engine.RawInputs[engine.IndexOf("UI1")] = Curve.Pt1000.RawOf(celsius);
        engine.Scan(now);
    }
}
