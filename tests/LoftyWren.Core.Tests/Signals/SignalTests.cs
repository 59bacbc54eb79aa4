using FsCheck.Xunit;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Signals;

public class SignalTests
{
    // IEC 60751:2008, table 1, for Pt100; ten times for Pt1000. Rounded there to 0.01 Ω, so here to 0.1 Ω.
    [Theory]
    [InlineData(-200, 185.2)]
    [InlineData(-100, 602.6)]
    [InlineData(-50, 803.1)]
    [InlineData(0, 1000.0)]
    [InlineData(20, 1077.9)]
    [InlineData(100, 1385.1)]
    [InlineData(200, 1758.6)]
    [InlineData(400, 2470.9)]
    [InlineData(850, 3904.8)]
    public void Pt1000_follows_the_table_of_IEC_60751(double celsius, double ohms)
    {
        Assert.Equal(ohms, Pt1000.Resistance(celsius), 0.06);
        Assert.Equal(celsius, Pt1000.Temperature(ohms), 0.04);
    }

    [Property]
    public void Pt1000_there_and_back_is_the_same_on_both_sides_of_zero(ushort step)
    {
        double celsius = -200 + (step / 65535.0 * 1050);
        Assert.Equal(celsius, Pt1000.Temperature(Pt1000.Resistance(celsius)), 1e-5);
    }

    [Theory]
    [InlineData(100_000, "open circuit")]
    [InlineData(3_906, "open circuit")]
    [InlineData(0, "short circuit")]
    [InlineData(180, "short circuit")]
    public void A_broken_Pt1000_is_a_fault_and_says_how(double ohms, string trouble)
    {
        var (value, status) = SignalConversion.Read(Signal.Pt1000, ohms, 0, 0, 0, false);
        Assert.True(double.IsNaN(value));
        Assert.Equal(StatusFlags.Fault, status);
        Assert.Contains(trouble, SignalConversion.Trouble(Signal.Pt1000, ohms));
    }

    [Fact]
    public void Volts_map_in_a_straight_line_and_take_the_correction()
    {
        // 0–10 V for −20…60 °C: 5 V is the middle, 20 °C; corrected by −0.3 K.
        Assert.Equal(19.7, SignalConversion.Read(Signal.Volts, 5, -20, 60, -0.3, false).Value, 1e-9);
        Assert.Equal(-20, SignalConversion.Read(Signal.Volts, 0, -20, 60, 0, false).Value, 1e-9);
    }

    [Theory]
    [InlineData(4, 0)]
    [InlineData(12, 50)]
    [InlineData(20, 100)]
    [InlineData(3.8, -1.25)]
    public void Milliamps_map_4_to_20(double milliamps, double percent) =>
        Assert.Equal(percent, SignalConversion.Read(Signal.Milliamps, milliamps, 0, 100, 0, false).Value, 1e-9);

    // NAMUR NE 43: at or below 3.6 mA and at or above 21 mA the loop itself has failed.
    [Theory]
    [InlineData(3.5, "open loop")]
    [InlineData(3.6, "open loop")]
    [InlineData(21.0, "over range")]
    [InlineData(0, "open loop")]
    [InlineData(21.5, "over range")]
    public void A_failed_loop_is_a_fault(double milliamps, string trouble)
    {
        Assert.Equal(StatusFlags.Fault, SignalConversion.Read(Signal.Milliamps, milliamps, 0, 100, 0, false).Status);
        Assert.Contains(trouble, SignalConversion.Trouble(Signal.Milliamps, milliamps));
    }

    [Theory]
    [InlineData(1, false, 1)]
    [InlineData(0, false, 0)]
    [InlineData(1, true, 0)]
    [InlineData(0, true, 1)]
    public void A_contact_can_be_turned_round(double raw, bool inverted, double state) =>
        Assert.Equal(state, SignalConversion.Read(Signal.DryContact, raw, 0, 1, 0, inverted).Value);

    [Fact]
    public void Nothing_connected_is_never_a_number()
    {
        foreach (Signal signal in Enum.GetValues<Signal>())
            Assert.Equal(StatusFlags.Fault, SignalConversion.Read(signal, double.NaN, 0, 100, 0, false).Status);
    }

    // 1077.9 Ω are 20 °C (IEC 60751), which are 68 °F; the correction is in °F.
    [Fact]
    public void A_thermometer_serves_a_point_in_Fahrenheit()
    {
        var point = new Core.Points.Point { Id = new("p"), Name = "p", OwnerId = new("o"), Kind = Core.Points.PointKind.Analog, Unit = "°F", Role = Core.Points.PointRole.Sensor };
        Assert.Equal(Signal.Pt1000, Core.Hardware.Fitting.SignalsFor(point)[0]);
        Assert.Equal(68.5, SignalConversion.Read(Signal.Pt1000, 1077.9, 0, 0, 0.5, false, SignalConversion.ScaleOf(Signal.Pt1000, "°F")).Value, 0.05);
        Assert.Null(SignalConversion.ScaleOf(Signal.Pt1000, "°C"));
        Assert.Null(SignalConversion.ScaleOf(Signal.Volts, "°F"));
    }

    [Property]
    public void An_output_never_leaves_its_range_and_reads_back(short tenths)
    {
        double command = tenths / 10.0, volts = SignalConversion.Write(Signal.Volts, command, 0, 100, false);
        Assert.InRange(volts, 0, 10);
        Assert.Equal(Math.Clamp(command, 0, 100), SignalConversion.Read(Signal.Volts, volts, 0, 100, 0, false).Value, 1e-9);
    }

    [Fact]
    public void A_command_without_a_value_rests()
    {
        Assert.Equal(0, SignalConversion.Write(Signal.Volts, double.NaN, 0, 100, false));
        Assert.Equal(0, SignalConversion.Write(Signal.Relay, double.NaN, 0, 1, false));
    }
}
