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
        Assert.Equal(ohms, Curve.Pt1000.RawOf(celsius), 0.06);
        Assert.Equal(celsius, Curve.Pt1000.ValueOf(ohms), 0.04);
    }

    // Pt100: IEC 60751:2008, table 1; at 29.7 °C by hand: 100·(1 + 0.0039083·29.7 − 5.775e-7·882.09). Ni1000: DIN 43760, 6180 ppm/K.
    // NTC 10k: the makers' common table for β 3977 (within its 0.5 %). NTC 20k: the three points that define it.
    [Theory]
    [InlineData("pt100", -50, 80.31, 0.006)]
    [InlineData("pt100", 0, 100.00, 0.001)]
    [InlineData("pt100", 29.7, 111.5567, 0.001)]
    [InlineData("pt100", 100, 138.51, 0.006)]
    [InlineData("ni1000", -50, 742.6, 0.06)]
    [InlineData("ni1000", 0, 1000.0, 0.001)]
    [InlineData("ni1000", 20, 1112.4, 0.06)]
    [InlineData("ni1000", 50, 1291.1, 0.06)]
    [InlineData("ni1000", 100, 1617.8, 0.06)]
    [InlineData("ni1000", 150, 1986.3, 0.1)]
    [InlineData("ntc10k", -20, 97_070, 500)]
    [InlineData("ntc10k", 0, 32_650, 160)]
    [InlineData("ntc10k", 25, 10_000, 20)]
    [InlineData("ntc10k", 50, 3_602, 18)]
    [InlineData("ntc10k", 70, 1_752, 9)]
    [InlineData("ntc20k", 0, 70_140, 1)]
    [InlineData("ntc20k", 25, 20_000, 1)]
    [InlineData("ntc20k", 100, 1_107, 0.1)]
    public void Elements_follow_their_published_tables(string key, double celsius, double ohms, double within)
    {
        Signal signal = Signal.Find(key)!;
        Assert.Equal(ohms, signal.Write(new SignalSettings(0, 0), celsius), within);
        Assert.Equal(celsius, signal.Read(new SignalSettings(0, 0), signal.Write(new SignalSettings(0, 0), celsius)).Value, 1e-4);
        // Two wires of 3 Ω are in what is measured, and taken off.
        var wired = new SignalSettings(0, 0, LeadOhms: 3);
        Assert.Equal(signal.Write(new SignalSettings(0, 0), celsius) + 3, signal.Write(wired, celsius), 1e-9);
        Assert.Equal(celsius, signal.Read(wired, signal.Write(wired, celsius)).Value, 1e-4);
    }

    /// <summary>Over its whole range every element says for each value one raw value, always going one way, and that says the value again.</summary>
    [Fact]
    public void Every_element_goes_one_way_and_comes_back()
    {
        foreach (Curve curve in (Curve[])[Curve.Pt100, Curve.Pt1000, Curve.Ni1000, Curve.Ntc10K, Curve.Ntc20K, new PointCurve([(9200, -10), (5000, 10), (2500, 30)])])
        {
            var (low, high) = curve.Range;
            int way = Math.Sign(curve.RawOf(high) - curve.RawOf(low));
            for (int i = 1; i <= 400; i++)
            {
                double before = low + ((high - low) * (i - 1) / 400), value = low + ((high - low) * i / 400);
                Assert.Equal(way, Math.Sign(curve.RawOf(value) - curve.RawOf(before)));
                Assert.Equal(value, curve.ValueOf(curve.RawOf(value)), 1e-4);
            }
            Assert.True(double.IsNaN(curve.ValueOf(curve.RawRange.High * 1.01)));
        }
    }

    // Straight between 5000 Ω = 10 and 2500 Ω = 30: 3750 Ω is 20.
    [Fact]
    public void An_own_curve_is_read_from_words_and_refused_where_it_turns()
    {
        var points = SensorCurve.Parse("9200 = -10; 5000 = 10\n2500=30", out _)!;
        var settings = new SignalSettings(0, 0, 0.5, Own: new PointCurve([.. points.Select(p => (p.Raw, p.Value))]));
        Assert.Equal(20.5, Signal.Resistance.Read(settings, 3750).Value, 1e-9);
        Assert.Equal(StatusFlags.Fault, Signal.Resistance.Read(settings, 2400).Status);
        Assert.Contains("short circuit", Signal.Resistance.Trouble(settings, 100));
        Assert.Contains("open circuit", Signal.Resistance.Trouble(settings, Signal.Resistance.OpenRaw));
        Assert.Null(SensorCurve.Parse("1 = 2; 3 = 4; 5 = 3", out string? turns));
        Assert.StartsWith("The curve turns or stands still between 3 and 5", turns);
        Assert.Null(SensorCurve.Parse("1 = 2", out string? few));
        Assert.Equal("A curve needs at least two points.", few);
        Assert.Null(SensorCurve.Parse("1 = 2; x", out string? slip));
        Assert.StartsWith("‘x’ is no point of a curve.", slip);
    }

    [Fact]
    public void A_broken_or_shorted_wire_is_told_for_every_signal_that_shows_it()
    {
        foreach (Signal signal in Signal.All.Where(s => s.IsThermometer || s == Signal.LiveVolts || s == Signal.Milliamps || s == Signal.Potentiometer))
        {
            var settings = new SignalSettings(0, 100);
            Assert.NotNull(signal.Trouble(settings, signal.OpenRaw));
            Assert.NotNull(signal.Trouble(settings, signal.ShortRaw));
            Assert.Equal(StatusFlags.Fault, signal.Read(settings, signal.OpenRaw).Status);
            Assert.Null(signal.Trouble(settings, signal.Write(settings, 50)));
        }
    }

    // 2–10 V: 6 V is the middle. A pulse of 0.1 kWh, 1234 times, is 123.4 kWh; 123.49 kWh have given 1234 of them.
    [Fact]
    public void Live_volts_pulses_and_outputs_mean_what_they_say()
    {
        Assert.Equal(50, Signal.LiveVolts.Read(new SignalSettings(0, 100), 6).Value, 1e-9);
        Assert.Equal(2, Signal.LiveVolts.Write(new SignalSettings(0, 100), 0), 1e-9);
        var pulses = new SignalSettings(0, 0, PerPulse: 0.1);
        Assert.Equal(123.4, Signal.Pulses.Read(pulses, 1234).Value, 1e-9);
        Assert.Equal(1234, Signal.Pulses.Write(pulses, 123.49));
        Assert.Equal(12, Signal.Milliamps.Write(new SignalSettings(0, 100), 50), 1e-9);
        Assert.Equal(75, Signal.ThreePoint.Write(new SignalSettings(0, 100), 75), 1e-9);
        Assert.Equal(1, Signal.Triac.Write(new SignalSettings(0, 1), 1));
    }

    // IEC 60751: class B is ±(0.3 + 0.005·|t|), class A ±(0.15 + 0.002·|t|); DIN 43760: ±(0.4 + 0.028·|t|) below 0 °C.
    [Theory]
    [InlineData("pt1000", "B", 20, 0.4)]
    [InlineData("pt100", "A", 100, 0.35)]
    [InlineData("pt100", "AA", -50, 0.185)]
    [InlineData("ni1000", "standard", -50, 1.8)]
    [InlineData("volts", "0.5 %", 30, 0.5)]
    public void A_class_of_accuracy_says_how_far_off_a_sensor_may_be(string signal, string @class, double value, double off) =>
        Assert.Equal(off, Signal.Find(signal)!.ToleranceAt(new SignalSettings(0, 100), @class, value)!.Value, 1e-9);

    [Property]
    public void Pt1000_there_and_back_is_the_same_on_both_sides_of_zero(ushort step)
    {
        double celsius = -200 + (step / 65535.0 * 1050);
        Assert.Equal(celsius, Curve.Pt1000.ValueOf(Curve.Pt1000.RawOf(celsius)), 1e-5);
    }

    [Theory]
    [InlineData(100_000, "open circuit")]
    [InlineData(3_906, "open circuit")]
    [InlineData(0, "short circuit")]
    [InlineData(180, "short circuit")]
    public void A_broken_Pt1000_is_a_fault_and_says_how(double ohms, string trouble)
    {
        var (value, status) = Signal.Pt1000.Read(new SignalSettings(0, 0, 0, false), ohms);
        Assert.True(double.IsNaN(value));
        Assert.Equal(StatusFlags.Fault, status);
        Assert.Contains(trouble, Signal.Pt1000.Trouble(new SignalSettings(), ohms));
    }

    [Fact]
    public void Volts_map_in_a_straight_line_and_take_the_correction()
    {
        // 0–10 V for −20…60 °C: 5 V is the middle, 20 °C; corrected by −0.3 K.
        Assert.Equal(19.7, Signal.Volts.Read(new SignalSettings(-20, 60, -0.3, false), 5).Value, 1e-9);
        Assert.Equal(-20, Signal.Volts.Read(new SignalSettings(-20, 60, 0, false), 0).Value, 1e-9);
    }

    [Theory]
    [InlineData(4, 0)]
    [InlineData(12, 50)]
    [InlineData(20, 100)]
    [InlineData(3.8, -1.25)]
    public void Milliamps_map_4_to_20(double milliamps, double percent) =>
        Assert.Equal(percent, Signal.Milliamps.Read(new SignalSettings(0, 100, 0, false), milliamps).Value, 1e-9);

    // NAMUR NE 43: at or below 3.6 mA and at or above 21 mA the loop itself has failed.
    [Theory]
    [InlineData(3.5, "open loop")]
    [InlineData(3.6, "open loop")]
    [InlineData(21.0, "over range")]
    [InlineData(0, "open loop")]
    [InlineData(21.5, "over range")]
    public void A_failed_loop_is_a_fault(double milliamps, string trouble)
    {
        Assert.Equal(StatusFlags.Fault, Signal.Milliamps.Read(new SignalSettings(0, 100, 0, false), milliamps).Status);
        Assert.Contains(trouble, Signal.Milliamps.Trouble(new SignalSettings(), milliamps));
    }

    [Theory]
    [InlineData(1, false, 1)]
    [InlineData(0, false, 0)]
    [InlineData(1, true, 0)]
    [InlineData(0, true, 1)]
    public void A_contact_can_be_turned_round(double raw, bool inverted, double state) =>
        Assert.Equal(state, Signal.DryContact.Read(new SignalSettings(0, 1, 0, inverted), raw).Value);

    [Fact]
    public void Nothing_connected_is_never_a_number()
    {
        foreach (Signal signal in Signal.All)
            Assert.Equal(StatusFlags.Fault, signal.Read(new SignalSettings(0, 100, 0, false), double.NaN).Status);
    }

    // 1077.9 Ω are 20 °C (IEC 60751), which are 68 °F; the correction is in °F.
    [Fact]
    public void A_thermometer_serves_a_point_in_Fahrenheit()
    {
        var point = new Core.Points.Point { Id = new("p"), Name = "p", OwnerId = new("o"), Kind = Core.Points.PointKind.Analog, Unit = "°F", Role = Core.Points.PointRole.Sensor };
        Assert.Equal(Signal.Pt1000, Core.Hardware.Fitting.SignalsFor(point)[0]);
        Assert.Equal(68.5, Signal.Pt1000.Read(new SignalSettings(0, 0, 0.5, false, Signal.Pt1000.ScaleOf("°F")), 1077.9).Value, 0.05);
        Assert.Null(Signal.Pt1000.ScaleOf("°C"));
        Assert.Null(Signal.Volts.ScaleOf("°F"));
    }

    [Property]
    public void An_output_never_leaves_its_range_and_reads_back(short tenths)
    {
        double command = tenths / 10.0, volts = Signal.Volts.Write(new SignalSettings(0, 100), command);
        Assert.InRange(volts, 0, 10);
        Assert.Equal(Math.Clamp(command, 0, 100), Signal.Volts.Read(new SignalSettings(0, 100, 0, false), volts).Value, 1e-9);
    }

    [Fact]
    public void A_command_without_a_value_rests()
    {
        Assert.Equal(0, Signal.Volts.Write(new SignalSettings(0, 100), double.NaN));
        Assert.Equal(0, Signal.Relay.Write(new SignalSettings(0, 1), double.NaN));
    }

    [Theory]
    // Platinum to 850 °C and nickel to 250 °C by their tables; 1562 °F are 850 °C.
    [InlineData("pt1000", -20, 60, "°C", true)]
    [InlineData("pt1000", 0, 850, "°C", true)]
    [InlineData("pt1000", 0, 1300, "°C", false)]
    [InlineData("pt1000", 0, 1562, "°F", true)]
    [InlineData("pt1000", 0, 1600, "°F", false)]
    [InlineData("ni1000", 0, 300, "°C", false)]
    [InlineData("milliamps", 0, 1300, "°C", true)]
    public void A_signal_serves_a_point_only_where_it_holds_its_range(string signal, double low, double high, string unit, bool holds)
    {
        var point = new Core.Points.Point { Id = new("p"), Name = "Kiln temperature", OwnerId = new("r"), Kind = Core.Points.PointKind.Analog, Role = Core.Points.PointRole.Sensor, Unit = unit, Low = low, High = high };
        Assert.Equal(holds, Core.Hardware.Fitting.SignalsFor(point).Contains(Signal.Find(signal)!));
    }
}
