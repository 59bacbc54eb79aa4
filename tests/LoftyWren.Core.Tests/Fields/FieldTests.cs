using System.Globalization;
using LoftyWren.Core.Alarms;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Trends;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Fields;

/// <summary>What a field says of itself is so: it is told, and between its limits its records take every number and beyond them none.</summary>
public class FieldTests
{
    private static readonly RecordId Alarm = new("too-warm"), Trend = new("trend-t");

    private static Project Project() => Accept(
        KilnRoom.Project(),
        new AlarmRule { Id = Alarm, Name = "Too warm", PointId = Temperature, HighLimit = 40 },
        new TrendLog { Id = Trend, Name = "Room temperature", PointId = Temperature },
        new Core.Hardware.IoModule { Id = new("mod1"), Name = "A1", ControllerId = KilnRoom.Controller, ModelId = "ui-8", Address = 1 },
        new Core.Bus.Topology.BusLine { Id = new("line"), Name = "Rooms", Area = 1, Line = 1 },
        new Core.Bus.Groups.GroupRange { Id = new("range"), Name = "Lights", Main = 1, Middle = 0 });

    private static IEnumerable<(RecordKind Kind, Field Field)> Written => RecordKinds.All.Where(k => k.Type.Assembly == typeof(Point).Assembly)
        .SelectMany(k => k.Offered(FieldUses.Grid | FieldUses.Form).Select(f => (k, f))).Where(f => !f.f.IsShown);

    [Fact]
    public void Every_field_that_is_filled_says_what_it_is()
    {
        Assert.Empty(Written.Where(f => f.Field.About is not { Length: > 10 } about || !about.EndsWith('.')).Select(f => $"{f.Kind.Key}.{f.Field.Key}"));
        Assert.True(Written.Count() > 20);
    }

    [Fact]
    public void Between_its_limits_a_number_is_taken_and_beyond_them_refused_at_its_field()
    {
        Project project = Project();
        var limited = new List<string>();
        foreach (var (kind, field) in Written.Where(f => f.Field.Least is not null || f.Field.Most is not null))
        {
            // All take what lies between; what lies beyond is refused where the number is used: a value in memory has no correction.
            ProjectRecord[] records = [.. project.Records.Where(r => r.GetType() == kind.Type && field.IsOf(r))];
            Assert.NotEmpty(records);
            limited.Add($"{kind.Key}.{field.Key}");
            if (field.Least is { } least) Assert.Equal((true, false), (records.All(r => IsTaken(r, least)), records.All(r => IsTaken(r, least - 1))));
            if (field.Most is { } most) Assert.Equal((true, false), (records.All(r => IsTaken(r, most)), records.All(r => IsTaken(r, most + 1))));

            bool IsTaken(ProjectRecord record, double number)
            {
                FieldReading reading = field.Read(project, record, number.ToString("R", CultureInfo.InvariantCulture));
                Assert.Null(reading.Refusal);
                return !reading.Record!.Check(project).Any(r => r.Field == field.Key);
            }
        }
        // By hand: those whose check in the record names two figures or one.
        Assert.Equal(
            ["alarm.deadband", "alarm.delayNormalSeconds", "alarm.delaySeconds", "busLine.area", "busLine.lengthMetres", "busLine.line", "controller.deviceInstance", "controller.prefixLength", "controller.railMillimetres", "controller.rails", "controller.silentAfterSeconds", "fitting.correction", "fitting.leadOhms", "fitting.loadAmps", "fitting.runTimeSeconds", "groupRange.main", "groupRange.middle", "module.rail", "place.areaSquareMetres", "point.leastOff", "point.leastOn", "sequence.scanSeconds", "trend.bufferSize", "trend.changeBy", "trend.intervalSeconds"],
            limited.Order(StringComparer.Ordinal));
    }

    [Theory]
    [InlineData("90", 90)]
    [InlineData("90 s", 90)]
    [InlineData("0.5", 0.5)]
    [InlineData("0,5 s", 0.5)]
    [InlineData("1 h 30 min", 5400)]
    [InlineData("1h30min", 5400)]
    [InlineData("2 MIN", 120)]
    [InlineData("1 d 2 h 3 min 4 s", 93_784)]
    [InlineData("1.5 h", 5400)]
    public void A_stretch_of_time_is_read_in_seconds_or_in_parts(string text, double seconds)
    {
        Assert.Null(FieldTexts.Seconds(text, out double read));
        Assert.Equal(seconds, read);
    }

    [Theory]
    [InlineData("soon")]
    [InlineData("30 min 1 h")]
    [InlineData("1 h 30")]
    [InlineData("5 min 5 min")]
    [InlineData("h")]
    [InlineData("1,000 s 5")]
    [InlineData("5 m")]
    public void What_is_no_stretch_of_time_is_refused_with_what_would_be_right(string text)
    {
        Assert.Equal($"‘{text}’ is not a stretch of time. Write seconds, such as 90, or parts such as 1 h 30 min.", FieldTexts.Seconds(text, out _));
        Assert.NotEmpty(CellEdits.Plan(Project(), [new CellEdit(Alarm, "delaySeconds", text, null)]).Refusals);
    }

    [Fact]
    public void A_hostile_text_is_refused_at_once()
    {
        var watch = System.Diagnostics.Stopwatch.StartNew();
        foreach (string text in new[] { "1 d" + new string(' ', 20_000) + "x", new string('1', 20_000) + "x", string.Concat(Enumerable.Repeat("1.", 10_000)) + " h" })
            Assert.NotNull(FieldTexts.Seconds(text, out _));
        Assert.True(watch.Elapsed.TotalSeconds < 2, $"{watch.Elapsed}");
    }

    [Fact]
    public void A_delay_is_written_as_people_say_it_and_kept_in_seconds()
    {
        Project project = Project();
        Project after = Accept(project, [.. CellEdits.Plan(project, [new CellEdit(Alarm, "delaySeconds", "5 min", null), new CellEdit(Trend, "intervalSeconds", "1 h", null)]).Edits]);
        Assert.Equal((300, 3600), (after.Find<AlarmRule>(Alarm)!.DelaySeconds, after.Find<TrendLog>(Trend)!.IntervalSeconds));
        // An empty delay is none; an interval there must be.
        Assert.Equal(0, Accept(after, [.. CellEdits.Plan(after, [new CellEdit(Alarm, "delaySeconds", "", null)]).Edits]).Find<AlarmRule>(Alarm)!.DelaySeconds);
        Assert.Equal("Interval of ‘Room temperature’: Interval needs a time, such as 90, 5 min or 1 h 30 min.", Assert.Single(CellEdits.Plan(after, [new CellEdit(Trend, "intervalSeconds", "", null)]).Refusals).Sentence);
    }
}
