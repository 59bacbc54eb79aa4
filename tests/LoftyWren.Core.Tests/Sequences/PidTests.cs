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
        // dm/dt = −1 K/s; 1 × 60 s × 1 K/s = 60 % on top of 11 %.
        Assert.Equal(71, pid.Out(2, 19, 30), 1e-9);
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
