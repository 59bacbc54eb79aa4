using LoftyWren.Core.Devices;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>Mode tables by hand-drawn stories, and laws over tables by chance.</summary>
public class ModeTableTests
{
    /// <summary>A table on the bench: each condition is a point that the test sets, by the order of the modes.</summary>
    private sealed class Table
    {
        private readonly Plan _plan;
        private readonly PinValue[] _readings;
        private readonly ModeTable _table;
        private PlanState _state;

        public Table(ModeTable table, Dictionary<string, Source>? cells = null, string[]? pins = null)
        {
            _table = table;
            pins ??= [.. table.Modes.SkipLast(1).Select(m => ModeTable.When(m.Slot))];
            Point[] points = [.. pins.Select((p, i) => new Point { Id = new RecordId($"p{i}"), Name = p, OwnerId = KilnRoom.Room, Kind = PointKind.Binary, Role = PointRole.Value, StateTexts = ["off", "on"] })];
            var inputs = pins.Select((p, i) => (p, Source: (Source)new PointSource(points[i].Id))).ToDictionary(x => x.p, x => x.Source);
            foreach (var (pin, source) in cells ?? []) inputs[pin] = source;
            Sequence = new Sequence { Id = new("seq"), Name = "modes", EquipmentId = KilnRoom.Fan, Blocks = [new Block { Id = "m", Kind = BlockKind.Modes, Modes = table, Inputs = inputs }] };
            Project = KilnRoom.Accept(KilnRoom.Project(), points);
            (_plan, Typing) = Compiler.Compile(Sequence, Project, id => Array.FindIndex(points, p => p.Id == id), other => other.Fact is { } fact ? points.Length + (int)fact : -1);
            _state = _plan.NewState();
            _readings = [.. points.Select(_ => new PinValue(0, StatusFlags.None)), .. Enum.GetValues<ControllerFact>().Select(_ => new PinValue(1, StatusFlags.None))];
            Start(RestartReason.Unknown, 0);
        }

        public Sequence Sequence { get; }

        public Project Project { get; }

        public Typing Typing { get; }

        public void Start(RestartReason cause, double at)
        {
            int facts = _readings.Length - Enum.GetValues<ControllerFact>().Length;
            _readings[facts + (int)ControllerFact.StartCause] = new(StartCauses.NumberOf(cause), StatusFlags.None);
            _readings[facts + (int)ControllerFact.StartedAt] = new(at, StatusFlags.None);
        }

        public void Set(int condition, double value) => _readings[condition] = double.IsNaN(value) ? PinValue.Released : double.IsInfinity(value) ? PinValue.Fault : new(value, StatusFlags.None);

        /// <summary>Scans and answers the name of the mode.</summary>
        public string At(double now, params double[] conditions)
        {
            for (int i = 0; i < conditions.Length; i++) Set(i, conditions[i]);
            _plan.Scan(_state, _readings, now);
            return _table.Modes[(int)this["out"].Value - 1].Name;
        }

        public PinValue this[string pin] => _state.Slots[_plan.Pins[$"m.{pin}"]];

        public Table With(ModeTable table)
        {
            var next = new Table(table);
            // As a send does: what is remembered of the block by its identity.
            Array.Copy(_state.Memory, next._state.Memory, _state.Memory.Length);
            return next;
        }

        public void Restart()
        {
            PlanState fresh = _plan.NewState();
            Array.Copy(_state.Memory, fresh.Memory, fresh.Memory.Length);
            _state = fresh;
        }
    }

    private static Mode Row(int slot, string name) => new() { Slot = slot, Name = name };

    private static readonly ModeTable Plant = new()
    {
        Modes =
        [
            Row(1, "Fire") with { AtOnce = true, Unread = UnreadCondition.Yes },
            Row(2, "Frost") with { Least = 300, EnterAfter = 10, AtOnce = true },
            Row(3, "Day") with { Least = 600, LeaveAfter = 120 },
            Row(4, "Off") with { Least = 180 },
        ],
    };

    [Fact]
    public void The_first_row_that_holds_wins_with_its_delays_and_least_times()
    {
        var t = new Table(Plant);
        Assert.Equal("Off", t.At(0, 0, 0, 0));
        // What it begins with has no least time.
        Assert.Equal("Day", t.At(1, 0, 0, 1));
        Assert.Equal("Day", t.At(100, 0, 1, 1));
        Assert.Equal("Day", t.At(109, 0, 1, 1));
        Assert.Equal("Frost", t.At(110, 0, 1, 1));
        Assert.Equal("Fire", t.At(111, 1, 1, 1));
        // Frost still holds, and is next in rank.
        Assert.Equal("Frost", t.At(112, 0, 1, 1));
        // Its condition goes, but it lasts 300 s from 112.
        Assert.Equal("Frost", t.At(113, 0, 0, 1));
        Assert.Equal("Frost", t.At(411, 0, 0, 1));
        Assert.Equal("Day", t.At(412, 0, 0, 1));
        // Day goes 120 s after its condition, though not before 600 s are over: at 1012.
        Assert.Equal("Day", t.At(500, 0, 0, 0));
        Assert.Equal("Day", t.At(1011, 0, 0, 0));
        Assert.Equal("Off", t.At(1012, 0, 0, 0));
        Assert.Equal(0, t["time"].Value);
        // Off lasts 180 s now: it was entered in the run of things.
        Assert.Equal("Off", t.At(1191, 0, 0, 1));
        Assert.Equal("Day", t.At(1192, 0, 0, 1));
        Assert.Equal(8, t["changes"].Value);
    }

    [Fact]
    public void A_condition_that_cannot_be_read_counts_as_the_mode_says()
    {
        var t = new Table(Plant);
        Assert.Equal("Off", t.At(0, 0, 0, 0));
        Assert.Equal("Fire", t.At(1, double.PositiveInfinity, 0, 0));
        Assert.Equal("Off", t.At(2, 0, double.PositiveInfinity, double.NaN));
        var was = new Table(new ModeTable { Modes = [Row(1, "Day") with { Unread = UnreadCondition.AsWas }, Row(2, "Off")] });
        Assert.Equal("Off", was.At(0, double.NaN));
        Assert.Equal("Day", was.At(1, 1));
        Assert.Equal("Day", was.At(2, double.NaN));
        Assert.Equal("Off", was.At(3, 0));
        Assert.Equal("Off", was.At(4, double.NaN));
    }

    /// <summary>A condition that is connected to a point which nobody wired is one that cannot be read, not one that is not there.</summary>
    [Fact]
    public void A_condition_that_nobody_wired_counts_as_the_mode_says()
    {
        var t = new Table(Plant);
        var (plan, _) = Compiler.Compile(t.Sequence, t.Project, _ => -1, _ => -1);
        PlanState state = plan.NewState();
        plan.Scan(state, [], 0);
        Assert.Equal("Fire", Plant.Modes[(int)state.Slots[plan.Pins["m.out"]].Value - 1].Name);
    }

    [Fact]
    public void A_mode_comes_only_from_where_it_may_and_ends_by_its_own_condition_or_after_its_most()
    {
        var table = new ModeTable
        {
            Modes = [Row(1, "Run on") with { From = [2], Most = 60 }, Row(2, "Runs"), Row(3, "Off")],
        };
        // The run-on holds whenever the demand does not; it may follow the running only.
        var t = new Table(table);
        Assert.Equal("Off", t.At(0, 1, 0));
        Assert.Equal("Runs", t.At(10, 0, 1));
        Assert.Equal("Run on", t.At(20, 1, 0));
        Assert.Equal("Run on", t.At(79, 1, 0));
        Assert.Equal("Off", t.At(80, 1, 0));
        Assert.Equal("Off", t.At(200, 1, 0));
        var latched = new Table(new ModeTable { Modes = [Row(1, "Tripped"), Row(2, "Ready")] }, pins: ["when1", "until1"]);
        Assert.Equal("Tripped", latched.At(0, 1, 0));
        // Its condition may go: only what ends it ends it, and keeps it from coming.
        Assert.Equal("Tripped", latched.At(5, 0, 0));
        Assert.Equal("Ready", latched.At(6, 1, 1));
        Assert.Equal("Ready", latched.At(7, 1, 1));
        Assert.Equal("Tripped", latched.At(8, 1, 0));
    }

    [Fact]
    public void A_start_begins_where_its_cause_says_and_a_restart_goes_on_unless_it_begins_anew()
    {
        var table = new ModeTable { Modes = [Row(1, "Wait after power") with { Starts = [RestartReason.DetectedPowerLost], Least = 30 }, Row(2, "Runs") with { Least = 100 }, Row(3, "Off")] };
        var t = new Table(table, pins: ["when2"]);
        Assert.Equal("Runs", t.At(0, 1));
        Assert.Equal("Runs", t.At(40, 0));
        t.Restart();
        t.Start(RestartReason.Warmstart, 41);
        // Of the least 100 s 60 are left.
        Assert.Equal("Runs", t.At(41, 0));
        Assert.Equal("Runs", t.At(99, 0));
        Assert.Equal("Off", t.At(100, 0));
        t.Restart();
        t.Start(RestartReason.DetectedPowerLost, 500);
        Assert.Equal("Wait after power", t.At(110, 1));
        Assert.Equal("Wait after power", t.At(139, 1));
        Assert.Equal("Runs", t.At(140, 1));
        // A second cut before the next scan, however long that is, is a start of its own.
        t.Restart();
        t.Start(RestartReason.DetectedPowerLost, 900);
        Assert.Equal("Wait after power", t.At(140, 1));
        var anew = new Table(table with { BeginsAgain = true }, pins: ["when2"]);
        Assert.Equal("Runs", anew.At(0, 1));
        anew.Restart();
        anew.Start(RestartReason.Warmstart, 1);
        Assert.Equal("Off", anew.At(1, 0));
    }

    [Fact]
    public void A_changed_table_keeps_its_mode_by_identity_though_rows_have_moved()
    {
        var t = new Table(Plant);
        t.At(0, 0, 0, 0);
        Assert.Equal("Day", t.At(1, 0, 0, 1));
        ModeTable moved = Plant with { Modes = [Plant.Modes[0], Row(9, "Purge"), Plant.Modes[1], Plant.Modes[2], Plant.Modes[3]] };
        Table next = t.With(moved);
        Assert.Equal("Day", next.At(2, 0, 0, 0, 1));
        Assert.Equal(1, next["time"].Value);
        Assert.Equal("Off", next.With(Plant with { Modes = [Plant.Modes[0], Plant.Modes[3]] }).At(3, 0));
    }

    [Fact]
    public void Columns_say_what_the_present_mode_says_or_release()
    {
        var table = Plant with { Columns = [new() { Slot = 1, Name = "Fan" }, new() { Slot = 2, Name = "Setpoint" }], Modes = [.. Plant.Modes.Select(m => m.Slot == 4 ? m with { Releases = [2] } : m)] };
        var t = new Table(table, new()
        {
            [ModeTable.Cell(1, 1)] = new ConstantSource(0, null, true),
            [ModeTable.Cell(1, 2)] = new ConstantSource(0, null, true),
            [ModeTable.Cell(1, 3)] = new ConstantSource(1, null, true),
            [ModeTable.Cell(1, 4)] = new ConstantSource(0, null, true),
            [ModeTable.Cell(2, 3)] = new ConstantSource(68, "°F"),
            [ModeTable.Cell(2, 2)] = new ConstantSource(5, "°C"),
            // Released on purpose, whatever is in the cell.
            [ModeTable.Cell(2, 4)] = new ConstantSource(12, "°C"),
        });
        Assert.Equal("°C", t.Typing.Outputs[("m", "c2")].Unit!.Symbol);
        Assert.Equal(["Fire", "Frost", "Day", "Off"], t.Typing.Outputs[("m", "out")].States);
        t.At(0, 0, 0, 0);
        Assert.Equal((0, StatusFlags.Released), (t["c1"].Value, t["c2"].Status));
        t.At(1, 0, 0, 1);
        Assert.Equal(1, t["c1"].Value);
        // 68 °F are 20 °C, converted on the line from the cell.
        Assert.Equal(20, t["c2"].Value, 9);
        t.At(2, 1, 0, 1);
        Assert.Equal((0, StatusFlags.Released), (t["c1"].Value, t["c2"].Status));
    }

    /// <summary>A least time holds behind everything that does not come at once, and a most time is never outlasted, for tables, conditions, scan periods, sends and pauses by chance.</summary>
    [Fact]
    public void Least_and_most_times_hold_in_tables_by_chance()
    {
        for (int seed = 0; seed < 200; seed++)
        {
            var random = new Random(seed);
            int count = random.Next(2, 8);
            var table = new ModeTable
            {
                Modes = [.. Enumerable.Range(1, count).Select(s => Row(s, $"M{s}") with
                {
                    EnterAfter = random.Next(3) == 0 ? random.Next(30) : 0,
                    LeaveAfter = random.Next(3) == 0 ? random.Next(30) : 0,
                    Least = random.Next(2) == 0 ? random.Next(60) : 0,
                    Most = random.Next(4) == 0 ? 60 + random.Next(60) : 0,
                    AtOnce = random.Next(4) == 0,
                    From = random.Next(5) == 0 ? [random.Next(1, count + 1)] : [],
                    Unread = (UnreadCondition)random.Next(3),
                })],
            };
            var t = new Table(table);
            double now = 0, entered = double.NegativeInfinity, period = 1 + random.Next(10);
            string present = "", last = table.Modes[^1].Name;
            bool isFirst = true;
            for (int scan = 0; scan < 400; scan++)
            {
                for (int i = 0; i < count - 1; i++)
                {
                    if (random.Next(12) == 0) t.Set(i, random.Next(6) switch { 0 => double.NaN, 1 => double.PositiveInfinity, var v => v % 2 });
                }
                if (random.Next(40) == 0) t.Restart();
                string mode = t.At(now, []);
                Mode row = table.Modes.First(m => m.Name == mode);
                if (mode != present)
                {
                    Mode? before = table.Modes.FirstOrDefault(m => m.Name == present);
                    if (before is not null && !isFirst && !row.AtOnce) Assert.True(now - entered >= before.Least - 1e-6, $"seed {seed}: {present} lasted {now - entered} s, at least {before.Least}");
                    if (before is not null && row.From.Count > 0 && mode != last) Assert.Contains(before.Slot, row.From);
                    (isFirst, present, entered) = (present.Length == 0, mode, now);
                }
                else if (row.Most > 0 && mode != last) Assert.True(now - entered <= row.Most + period, $"seed {seed}: {mode} has lasted {now - entered} s, at most {row.Most}");
                now += period;
            }
        }
    }

    [Theory]
    [InlineData("two modes called ‘Day’", "Day", "Day")]
    [InlineData("has no name", " ", "Off")]
    public void What_is_wrong_with_a_table_is_said(string says, string one, string two) =>
        Assert.Contains(new ModeTable { Modes = [Row(1, one), Row(2, two)] }.Wrong("Operation"), w => w.Contains(says, StringComparison.Ordinal));
}
