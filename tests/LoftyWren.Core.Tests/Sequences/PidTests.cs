using LoftyWren.Core.Devices;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>PID against figures worked out by hand from its formula.</summary>
public class PidTests
{
    private static readonly string[] Pins = ["measured", "setpoint"];

    [Fact]
    public void Proportional_alone_is_gain_times_error()
    {
        // Reverse: e = 21 − 19 = 2 K; 10 %/K × 2 K = 20 %.
        Assert.Equal(20, new Bench(BlockKind.Pid, Pins, [("gain", 10), ("ti", 0)], unit: "°C").Out(0, 19, 21), 1e-9);
        // Direct: e = 19 − 21 = −2 K; limited at 0 %.
        Assert.Equal(0, new Bench(BlockKind.Pid, Pins, [("gain", 10), ("ti", 0)], [("action", "direct")], "°C").Out(0, 19, 21), 1e-9);
        Assert.Equal(20, new Bench(BlockKind.Pid, Pins, [("gain", 10), ("ti", 0)], [("action", "direct")], "°C").Out(0, 23, 21), 1e-9);
    }

    [Fact]
    public void The_integral_repeats_the_proportional_part_once_every_integral_time()
    {
        var pid = new Bench(BlockKind.Pid, Pins, [("gain", 10), ("ti", 100)], unit: "°C");
        Assert.Equal(20, pid.Out(0, 19, 21), 1e-9);
        for (int s = 1; s <= 100; s++) pid.Out(s, 19, 21);
        Assert.Equal(40, pid.Out(100, 19, 21), 1e-9);
    }

    [Fact]
    public void A_saturated_output_comes_back_as_soon_as_the_error_turns()
    {
        var pid = new Bench(BlockKind.Pid, Pins, [("gain", 10), ("ti", 100)], unit: "°C");
        for (int s = 0; s <= 3600; s++) pid.Out(s, 5, 21);
        Assert.Equal(100, pid.Out(3601, 5, 21));
        // P alone was 160 %, so the integral never had to grow: at e = 2 K it is 20 % at once, not after an hour of unwinding.
        Assert.Equal(20, pid.Out(3602, 19, 21), 1.0);
        Assert.Equal(0, pid.Out(3603, 25, 21));
    }

    [Fact]
    public void The_output_never_leaves_its_limits()
    {
        var random = new Random(7);
        var pid = new Bench(BlockKind.Pid, Pins, [("gain", 30), ("ti", 50), ("td", 20), ("low", 15), ("high", 80)], unit: "°C");
        for (int s = 0; s < 5000; s++) Assert.InRange(pid.Out(s, 15 + (random.NextDouble() * 12), 21), 15, 80);
    }

    [Fact]
    public void It_starts_without_a_bump_from_what_it_tracks_and_from_its_last_output()
    {
        string[] pins = ["measured", "setpoint", "enable", "track"];
        var pid = new Bench(BlockKind.Pid, pins, [("gain", 10), ("ti", 1000)], unit: "°C");
        Assert.Equal(StatusFlags.Released, pid.Scan(0, 19, 21, 0, 55).Status);
        Assert.Equal(55, pid.Out(1, 19, 21, 1, 55), 1e-9);
        double last = pid.Out(2, 19, 21, 1, 55);
        pid.Out(3, 19, 21, 0, double.NaN);
        Assert.Equal(last, pid.Out(50, 19, 21, 1, double.NaN), 1e-9);
    }

    [Fact]
    public void A_setpoint_step_gives_no_derivative_kick_but_a_measured_step_does()
    {
        var pid = new Bench(BlockKind.Pid, Pins, [("gain", 1), ("ti", 0), ("td", 60)], unit: "°C");
        pid.Out(0, 20, 20);
        Assert.Equal(10, pid.Out(1, 20, 30), 1e-9);
        // A step of −1 K in 1 s behind a filter of 0.25 × 60 s = 15 s: slope −1 K ÷ (15 + 1) s; 1 × 60 s × 1/16 K/s = 3.75 % on top of 11 %.
        Assert.Equal(14.75, pid.Out(2, 19, 30), 1e-9);
        // A ramp of −1 K/s comes to its full slope: 60 % on top of the proportional part.
        double measured = 19;
        for (int s = 3; s < 200; s++) pid.Out(s, measured -= 0.1, 30);
        Assert.Equal(6 + (30 - (measured - 0.1)), pid.Out(200, measured - 0.1, 30), 0.01);
    }

    // Unfiltered: 10 %/K × 60 s ÷ 1 s × 0.03 K × √2 = 25 % rms. Filtered by td/4: about 10 × 4 × 0.03 K = 1.2 % rms, and 0.3 % of the proportional part.
    [Fact]
    public void Noise_of_a_sensor_hardly_moves_the_output_through_the_derivative()
    {
        var random = new Random(3);
        var pid = new Bench(BlockKind.Pid, Pins, [("gain", 10), ("ti", 0), ("td", 60), ("low", -100)], unit: "°C");
        double squares = 0;
        for (int s = 0; s < 5000; s++)
        {
            double noise = 0.03 * Math.Sqrt(-2 * Math.Log(1 - random.NextDouble())) * Math.Cos(2 * Math.PI * random.NextDouble());
            double output = pid.Out(s, 21 + noise, 21);
            if (s > 100) squares += output * output;
        }
        Assert.InRange(Math.Sqrt(squares / 4900), 0.5, 2);
    }

    // The demo's fan-coil: 25 %/K, 1200 s. At 21.5 °C against 16 °C the proportional part is −137.5 %.
    [Fact]
    public void One_scan_of_a_sensor_fault_does_not_wind_the_integral_up()
    {
        var pid = new Bench(BlockKind.Pid, Pins, [("gain", 25), ("ti", 1200)], unit: "°C");
        for (int s = 0; s < 600; s++) Assert.Equal(0, pid.Out(s, 21.5, 16));
        Assert.Equal(StatusFlags.Fault, pid.Scan(600, double.PositiveInfinity, 16).Status);
        for (int s = 601; s < 11_400; s++) Assert.Equal(0, pid.Out(s, 21.5, 16));
        for (int s = 11_400; s < 16_800; s++) Assert.Equal(0, pid.Out(s, 21.5, 20.5));
    }

    [Fact]
    public void Enabled_again_while_it_is_too_warm_it_does_not_heat()
    {
        var pid = new Bench(BlockKind.Pid, ["measured", "setpoint", "enable"], [("gain", 10)], unit: "°C");
        for (int s = 0; s < 60; s++) Assert.Equal(0, pid.Out(s, 26, 21, 1));
        pid.Out(60, 26, 21, 0);
        for (int s = 61; s < 400; s++) Assert.Equal(0, pid.Out(s, Math.Max(22, 26 - ((s - 61) * 0.02)), 21, 1));
    }

    [Fact]
    public void What_it_took_over_from_track_leaves_the_limit_again()
    {
        string[] pins = ["measured", "setpoint", "enable", "track"];
        var pid = new Bench(BlockKind.Pid, pins, [("gain", 25), ("ti", 1200)], unit: "°C");
        pid.Out(0, 21.5, 16, 0, 100);
        // −137.5 % cannot be made up by more than the range of the output.
        Assert.InRange(pid.Out(1, 21.5, 16, 1, 100), 0, 100);
        for (int s = 2; s < 3600; s++) pid.Out(s, 21.5, 16, 1, 100);
        Assert.Equal(0, pid.Out(3600, 21.5, 20.5, 1, 100));
    }

    [Theory]
    [InlineData(10, 20, 1.0)]
    [InlineData(20, 10, 1.0)]
    [InlineData(10, 35, -0.4)]
    public void A_new_gain_changes_nothing_at_once(double gain, double next, double error)
    {
        var swap = new SwappedPid(gain, next);
        double before = swap.Settle(error);
        Assert.InRange(before, 1, 99);
        Assert.Equal(before, swap.AfterSwap(error), 0.1);
    }

    /// <summary>One loop on a controller, and the same with another gain sent in its place.</summary>
    private sealed class SwappedPid(double gain, double next)
    {
        private readonly Core.Controllers.ControllerEngine _first = Engine(gain), _second = Engine(next);
        private long _now = KilnRoom.At(2026, 4, 15, 12, 0);

        public double Settle(double error)
        {
            for (int s = 0; s < 1500; s++) _first.ScanAt(_now += 1000, 29 - 2);
            for (int s = 0; s < 60; s++) _first.ScanAt(_now += 1000, 29 - error);
            return _first.Read(new("valve"))!.Value.Value;
        }

        public double AfterSwap(double error)
        {
            _second.Recall(_first.Remember(), Resumption.TakesOver);
            _second.ScanAt(_now += 1000, 29 - error);
            return _second.Read(new("valve"))!.Value.Value;
        }

        private static Core.Controllers.ControllerEngine Engine(double gain) => KilnRoom.Engine(KilnRoom.Accept(KilnRoom.Project(),
            new Core.Points.Point { Id = new("valve"), Name = "Valve", OwnerId = KilnRoom.Fan, Kind = Core.Points.PointKind.Analog, Role = Core.Points.PointRole.Command, Unit = "%", Low = 0, High = 100, Fallback = 0 },
            new Core.Hardware.Fitting { Id = new("f4"), Name = "AO1", ControllerId = KilnRoom.Controller, PointId = new("valve"), Terminal = "AO1", Signal = Core.Signals.Signal.Volts },
            new Sequence
            {
                Id = new("loop"),
                Name = "Loop",
                EquipmentId = KilnRoom.Fan,
                ControllerId = KilnRoom.Controller,
                Blocks = [new Block { Id = "pid", Kind = BlockKind.Pid, Numbers = new Dictionary<string, double> { ["gain"] = gain, ["ti"] = 1200 }, Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(KilnRoom.Temperature), ["setpoint"] = new PointSource(KilnRoom.Limit) } }],
                Commands = [new OutputCommand { PointId = new("valve"), Claims = [new Claim { Priority = 14, Source = new BlockSource("pid") }] }],
            }));
    }

    [Fact]
    public void Without_a_measurement_it_says_nothing_and_its_integral_stands_still()
    {
        var pid = new Bench(BlockKind.Pid, Pins, [("gain", 10), ("ti", 100)], unit: "°C");
        pid.Out(0, 19, 21);
        double before = pid.Out(10, 19, 21);
        Assert.Equal(StatusFlags.Fault, pid.Scan(500, double.PositiveInfinity, 21).Status);
        Assert.Equal(before, pid.Out(1000, 19, 21), 1e-9);
    }
}
