using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Proofs;

/// <summary>The rules against figures by hand, and whole trials against a plant whose answer is known in closed form: one lag behind a dead time.</summary>
public class LoopTuningTests
{
    /// <summary>A relay of ± 10 % that swings by ± 0.5: 4 × 10 ÷ (π × 0.5) = 25.46; with a differential of ± 0.3: 4 × 10 ÷ (π × 0.4) = 31.83.</summary>
    [Theory]
    [InlineData(0, 25.46)]
    [InlineData(0.3, 31.83)]
    public void The_ultimate_gain_of_a_relay(double differential, double gain) => Assert.Equal(gain, LoopRules.UltimateGain(10, new Swing(0.5, 600), differential), 0.01);

    [Fact]
    public void Settings_by_the_ultimate_cycle_and_by_the_model()
    {
        var cycle = LoopRules.Of(32, 600);
        Assert.Equal(new LoopSettings(10, 1320, 0), cycle[0].Settings);
        Assert.Equal(14.4, cycle[1].Settings.Gain, 6);
        Assert.Equal(500, cycle[1].Settings.Ti, 6);
        Assert.Equal(new LoopSettings(19.2, 300, 75), cycle[2].Settings with { Gain = Math.Round(cycle[2].Settings.Gain, 6) });
        // K = 0.5 per %, T = 600 s, L = 60 s, as quick as the dead time: 600 ÷ (0.5 × 120) = 10 %, ti = min(600, 480).
        LoopProposal brisk = LoopRules.Of(new LagAndDeadTime(0.5, 600, 60), 1)[1];
        Assert.Equal(new LoopSettings(10, 480, 0), brisk.Settings);
        // Without a dead time a twentieth of the lag, 30 s, stands for it: 600 ÷ (0.5 × 60) = 20 %, ti = 4 × 60 s.
        Assert.Equal(new LoopSettings(20, 240, 0), LoopRules.Of(new LagAndDeadTime(0.5, 600, 0), 1)[1].Settings);
    }

    /// <summary>The two points of a response in closed form: 28.3 % after L + T ÷ 3, 63.2 % after L + T.</summary>
    [Theory]
    [InlineData(0.5, 600, 60)]
    [InlineData(-0.2, 1800, 0)]
    [InlineData(2, 90, 300)]
    public void A_model_is_found_again(double gain, double lag, double dead)
    {
        var loop = new LagAndDeadTime(gain, lag, dead);
        LagAndDeadTime found = LoopRules.Fit([.. Enumerable.Range(0, 4000).Select(i => 20 + (10 * loop.After(i * 5)))], 5, 10)!.Value;
        Assert.Equal(gain, found.Gain, Math.Abs(gain) * 0.01);
        Assert.InRange(found.Lag, lag * 0.97, lag * 1.03 + 5);
        Assert.InRange(found.DeadTime, dead - 10, dead + 10);
        Assert.Null(LoopRules.Fit([20, 20, 20], 5, 10));
    }

    /// <summary>A plant in closed form: the measurement follows the valve with a gain, a lag and a dead time, around 15 °C.</summary>
    private sealed class Lagging(RecordId valve, RecordId sensor, double gain, double lag, double dead) : IBenchPlant
    {
        private readonly Queue<double> _onItsWay = new(Enumerable.Repeat(0.0, (int)(dead / 5)));
        private double _value = 15;
        private long _next;

        public void Begin(long at) => _next = at;

        public bool Have(RecordId point, double value)
        {
            _value = value;
            return point == sensor;
        }

        public void GoTo(long now, Func<RecordId, PinValue> commanded, Action<RecordId, double> measured)
        {
            for (; _next <= now; _next += 5000)
            {
                _onItsWay.Enqueue(commanded(valve) is { IsUsable: true } asked ? asked.Value : 0);
                _value += (15 + (gain * _onItsWay.Dequeue()) - _value) * (1 - Math.Exp(-5 / lag));
            }
            measured(sensor, _value);
        }
    }

    private static readonly RecordId Valve = new("valve"), Sensor = new("room-air"), Wanted = new("wanted");

    private static (Project Project, Core.Sequences.Sequence Sequence) Loop(string action = "reverse", double gain = 2, double ti = 1200)
    {
        var loop = new Block
        {
            Id = "loop",
            Kind = BlockKind.Pid,
            Numbers = new Dictionary<string, double> { ["gain"] = gain, ["ti"] = ti },
            Choices = new Dictionary<string, string> { ["action"] = action },
            Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(Sensor), ["setpoint"] = new PointSource(Wanted) },
        };
        Point point(RecordId id, PointRole role, string unit, double? fallback) => new() { Id = id, Name = id.Value, OwnerId = Fan, Role = role, Kind = PointKind.Analog, Unit = unit, Low = 0, High = 100, Fallback = fallback };
        var sequence = new Core.Sequences.Sequence { Id = new("loop-seq"), Name = "Loop", EquipmentId = Fan, ScanSeconds = 5, Blocks = [loop], Commands = [new OutputCommand { PointId = Valve, Claims = [new Claim { Priority = 16, Source = new BlockSource("loop") }] }] };
        return (Accept(Project(), point(Valve, PointRole.Command, "%", 0), point(Sensor, PointRole.Sensor, "°C", null), point(Wanted, PointRole.Setpoint, "°C", 21), sequence), sequence);
    }

    private static Tuned Try(TuningWay way, double plantGain = 0.2, double lag = 1800, double dead = 120, string action = "reverse", string before = "")
    {
        var (project, sequence) = Loop(action);
        return LoopTuning.Try(project, sequence, "loop", way, 10, TestText.Read(before, new SubjectNames(project, sequence)).Steps, _ => new Lagging(Valve, Sensor, plantGain, lag, dead));
    }

    [Fact]
    public void A_step_finds_the_plant_and_the_settings_for_it()
    {
        Tuned tuned = Try(TuningWay.Step);
        // By the rules, of K = 0.2 K per %, T = 1800 s, L = 120 s: brisk 1800 ÷ (0.2 × 240) = 37.5 % per K, ti = 960 s. Looked at
        // every 5 s through a controller that scans every 5 s the dead time comes out a few steps longer: to 150 s, 30 % per K and 1200 s.
        LoopSettings brisk = tuned.Proposals[1].Settings;
        Assert.InRange(brisk.Gain, 30, 38.5);
        Assert.InRange(brisk.Ti, 950, 1200);
        Assert.Equal(new LoopSettings(2, 1200, 0), tuned.Now);
        double off(int response) => tuned.Responses[response].Values.Zip(tuned.Responses[0].Values, (v, w) => Math.Abs(v - w)).Sum();
        Assert.True(off(2) < off(1) / 2 && off(3) < off(2), "each proposal answers quicker than the one before");
        Assert.All(tuned.Responses, r => Assert.InRange(r.Values.Count, 2, 400));
    }

    /// <summary>
    /// The limit cycle of one lag behind a dead time under a relay of ± d with a differential of ± ε, in closed form: it swings by
    /// a = ε e^(−L÷T) + K d (1 − e^(−L÷T)), every 2 (L + T ln((K d + a) ÷ (K d − ε))). L is the plant's, and up to three steps of 5 s more.
    /// </summary>
    [Fact]
    public void A_relay_finds_where_the_loop_would_swing()
    {
        const double gain = 0.2, lag = 1800, relay = 10, differential = 0.002 * 21;
        (double Ultimate, double Period) cycle(double dead)
        {
            double rest = Math.Exp(-dead / lag), swing = (differential * rest) + (gain * relay * (1 - rest));
            return (4 * relay / (Math.PI * Math.Sqrt((swing * swing) - (differential * differential))), 2 * (dead + (lag * Math.Log(((gain * relay) + swing) / ((gain * relay) - differential)))));
        }
        LoopSettings calm = Try(TuningWay.Relay).Proposals[0].Settings;
        Assert.InRange(calm.Gain * 3.2, cycle(135).Ultimate, cycle(120).Ultimate);
        Assert.InRange(calm.Ti / 2.2, cycle(120).Period, cycle(135).Period);
    }

    [Fact]
    public void The_same_every_time() => Assert.Equal(string.Join('\n', Try(TuningWay.Relay).Found), string.Join('\n', Try(TuningWay.Relay).Found));

    [Theory]
    [InlineData(TuningWay.Step, -0.2, "reverse", "", "is at a limit|at a limit|wrong way round")]
    [InlineData(TuningWay.Step, 0.2, "reverse", "fail room-air", "says nothing")]
    [InlineData(TuningWay.Step, 0.2, "reverse", "expect valve 99 %", "does not come true")]
    public void What_cannot_be_tried_is_said(TuningWay way, double gain, string action, string before, string says) =>
        Assert.Matches(says, Assert.Throws<InvalidOperationException>(() => Try(way, gain, action: action, before: before)).Message);

    [Fact]
    public void What_takes_too_long_is_given_up()
    {
        var (project, sequence) = Loop();
        int asked = 0;
        Assert.Contains("takes too long", Assert.Throws<InvalidOperationException>(() => LoopTuning.Try(project, sequence, "loop", TuningWay.Step, 10, [], _ => new Lagging(Valve, Sensor, 0.2, 1800, 120), () => ++asked > 60)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Only_a_loop_is_tuned()
    {
        var (project, sequence) = Loop();
        Assert.Contains("Only a PID", Assert.Throws<InvalidOperationException>(() => LoopTuning.Try(project, sequence, "none", TuningWay.Step, 10, [], _ => null!)).Message, StringComparison.Ordinal);
        Assert.Contains("at most 50", Assert.Throws<InvalidOperationException>(() => LoopTuning.Try(project, sequence, "loop", TuningWay.Step, 80, [], _ => null!)).Message, StringComparison.Ordinal);
    }
}
