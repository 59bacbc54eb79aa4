using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>What blocks calculate, against figures worked out by hand or published.</summary>
public class BlockFigureTests
{
    private const double R = double.NaN, F = double.PositiveInfinity;

    private static Bench On(BlockKind kind, string[] pins, params (string, double)[] numbers) => new(kind, pins, numbers);

    private static Bench Air(BlockKind kind, params (string, double)[] numbers) =>
        new(new Block { Id = "b", Kind = kind, Numbers = numbers.ToDictionary(n => n.Item1, n => n.Item2) }, kind == BlockKind.RelativeHumidity ? [("temperature", "°C"), ("dewPoint", "°C")] : [("temperature", "°C"), ("humidity", "%RH")]);

    // Psychrometric tables at 101 325 Pa (VDI 4670 and the usual charts agree to the digits given): dew point, wet bulb °C; humidity ratio g/kg; enthalpy kJ/kg.
    [Theory]
    [InlineData(20, 50, 9.3, 13.8, 7.26, 38.5)]
    [InlineData(25, 50, 13.9, 17.9, 9.88, 50.3)]
    [InlineData(30, 40, 14.9, 20.1, 10.6, 57.2)]
    [InlineData(30, 90, 28.2, 28.6, 24.3, 92.2)]
    [InlineData(5, 80, 1.8, 3.6, 4.31, 15.8)]
    [InlineData(20, 100, 20, 20, 14.7, 57.4)]
    public void Moist_air_is_that_of_the_tables(double celsius, double percent, double dew, double wet, double ratio, double enthalpy)
    {
        Assert.Equal(dew, Air(BlockKind.DewPoint).Out(0, celsius, percent), 0.1);
        Assert.Equal(wet, Air(BlockKind.WetBulb).Out(0, celsius, percent), 0.1);
        Assert.Equal(ratio, Air(BlockKind.HumidityRatio).Out(0, celsius, percent), 0.01 * ratio);
        Assert.Equal(enthalpy, Air(BlockKind.Enthalpy).Out(0, celsius, percent), 0.3);
        Assert.Equal(percent, Air(BlockKind.RelativeHumidity).Out(0, celsius, Air(BlockKind.DewPoint).Out(0, celsius, percent)), 1e-6);
    }

    [Fact]
    public void Moist_air_out_of_range_is_a_fault_and_thinner_air_carries_more_water()
    {
        foreach (var (celsius, percent) in ((double, double)[])[(61, 50), (-46, 50), (20, 101), (20, -1)])
        {
            foreach (BlockKind kind in (BlockKind[])[BlockKind.DewPoint, BlockKind.WetBulb, BlockKind.HumidityRatio, BlockKind.Enthalpy]) Assert.Equal(StatusFlags.Fault, Air(kind).Scan(0, celsius, percent).Status);
        }
        Assert.Equal(StatusFlags.Fault, Air(BlockKind.DewPoint).Scan(0, 20, 0).Status);
        Assert.Equal(StatusFlags.Fault, Air(BlockKind.RelativeHumidity).Scan(0, 20, 20.5).Status);
        // Half the vapour's partner: 621.98 × 1169 ÷ (70 000 − 1169), with e_w(20 °C) = 2338 Pa.
        Assert.Equal(10.56, Air(BlockKind.HumidityRatio, ("pressure", 70_000)).Out(0, 20, 50), 0.03);
    }

    [Fact]
    public void Two_of_three_is_decided_by_what_is_known()
    {
        Bench two = On(BlockKind.AtLeast, ["in1", "in2", "in3"], ("least", 2));
        Assert.Equal((1, StatusFlags.None), two.Scan(0, 1, 1, F));
        Assert.Equal((0, StatusFlags.None), two.Scan(1, 0, 0, F));
        Assert.Equal(StatusFlags.Fault, two.Scan(2, 1, 0, F).Status);
        Assert.Equal(StatusFlags.Released, two.Scan(3, 1, 0, R).Status);
        Assert.Equal(0, two.Out(4, 0, 1, 0));
    }

    [Fact]
    public void A_state_is_named_by_the_first_contact_and_its_texts_are_checked()
    {
        Block named(string states) => new() { Id = "b", Kind = BlockKind.StateOf, Texts = new Dictionary<string, string> { ["states"] = states } };
        (string, string)[] pins = [("in1", ""), ("in3", "")];
        var bench = new Bench(named("alarm, service, running, off"), pins);
        Assert.Equal(["alarm", "service", "running", "off"], bench.Typing.Outputs[("b", "out")].States);
        Assert.Equal((4, 3, 1), (bench.Out(0, 0, 0), bench.Out(1, 0, 1), bench.Out(2, 1, 1)));
        Assert.Equal(3, bench.Out(3, R, 1));
        Assert.Equal(StatusFlags.Fault, bench.Scan(4, F, 1).Status);
        Assert.Equal(1, bench.Out(5, 1, F));
        Assert.Equal(["‘State of’ needs 4 states, separated by commas: one for each input up to the last, and one for when none is on; it has 2."], Bench.Problems(named("on, off"), pins, false));
        Assert.Equal(["‘State of’ has two states of one name."], Bench.Problems(named("a, b, c, A"), pins, false));
    }

    [Fact]
    public void One_of_many_is_chosen_by_its_number_or_its_state()
    {
        Bench mux = On(BlockKind.Mux, ["k", "in1", "in2", "in3"]);
        Assert.Equal((10, 30), (mux.Out(0, 1, 10, 20, 30), mux.Out(1, 3, 10, F, 30)));
        Assert.Equal(StatusFlags.Fault, mux.Scan(2, 2, 10, F, 30).Status);
        Assert.All((double[])[0, 9, 1.5, -1], k => Assert.Equal(StatusFlags.Fault, mux.Scan(3, k, 1, 2, 3).Status));
        // What is chosen but not connected says nothing.
        Assert.Equal(StatusFlags.Released, mux.Scan(4, 4, 1, 2, 3).Status);
        Assert.Contains("takes a bare number at ‘which’", Bench.Problems(new Block { Id = "b", Kind = BlockKind.Mux }, [("k", "°C"), ("in1", "°C"), ("in2", "K")], false)[0]);
    }

    [Fact]
    public void The_first_good_value_is_taken_and_said()
    {
        Bench first = On(BlockKind.FirstGood, ["in1", "in2", "in3"]);
        Assert.Equal((20, 1), (first.Out(0, 20, 21, 22), first["which"]));
        Assert.Equal((22, 3), (first.Out(1, F, R, 22), first["which"]));
        Assert.Equal((StatusFlags.Fault, 0), (first.Scan(2, F, R, R).Status, first["which"]));
        Assert.Equal(StatusFlags.Released, first.Scan(3, R, R, R).Status);
    }

    [Fact]
    public void The_last_good_value_is_held_stale_for_its_time()
    {
        Bench hold = On(BlockKind.HoldGood, ["in"], ("most", 60));
        Assert.Equal(StatusFlags.Fault, hold.Scan(0, F).Status);
        hold.Scan(10, 21.5);
        Assert.Equal((21.5, StatusFlags.Stale), hold.Scan(11, F));
        Assert.Equal((21.5, StatusFlags.Stale), hold.Scan(69, R));
        // Held since the scan after the last good one, at 10 s.
        Assert.Equal(StatusFlags.Fault, hold.Scan(71, F).Status);
        Assert.Equal((22, StatusFlags.None), hold.Scan(72, 22));
    }

    [Theory]
    [InlineData("fault", "01000")]
    [InlineData("released", "00100")]
    [InlineData("stale", "00010")]
    [InlineData("byHand", "00001")]
    [InlineData("usable", "10011")]
    public void A_status_can_be_asked_for(string which, string expected)
    {
        var bench = new Bench(BlockKind.StatusIs, ["in"], null, [("is", which)]);
        PinValue[] values = [new(1, StatusFlags.None), PinValue.Fault, PinValue.Released, new(1, StatusFlags.Stale), new(1, StatusFlags.Overridden)];
        string seen = "";
        foreach (PinValue value in values)
        {
            bench.ScanAll(0, [value]);
            seen += bench["out"];
        }
        Assert.Equal(expected, seen);
    }

    [Fact]
    public void A_sample_is_taken_at_the_edge_only()
    {
        Bench sample = On(BlockKind.Sample, ["in", "take"]);
        Assert.Equal(StatusFlags.Released, sample.Scan(0, 5, 1).Status);
        sample.Scan(1, 6, 0);
        Assert.Equal((7, 7), (sample.Out(2, 7, 1), sample.Out(3, 8, 1)));
        sample.Scan(4, 9, 0);
        // Where there is nothing to take at the moment, what is held stays, also when there is something later.
        Assert.Equal((7, 7), (sample.Out(5, F, 1), sample.Out(6, 9, 1)));
    }

    [Fact]
    public void Words_are_packed_unpacked_masked_and_shifted()
    {
        Bench bits = On(BlockKind.Bits, ["in1", "in3", "in8"]);
        Assert.Equal(1 + 4 + 128, bits.Out(0, 1, 1, 1));
        Assert.Equal(StatusFlags.Released, bits.Scan(1, 1, R, 1).Status);
        Assert.Equal((1, 0), (On(BlockKind.BitOf, ["in"], ("bit", 15)).Out(0, 0x8001), On(BlockKind.BitOf, ["in"], ("bit", 1)).Out(0, 0x8001)));
        Assert.All((double[])[-1, 65536, 1.5], v => Assert.Equal(StatusFlags.Fault, On(BlockKind.BitOf, ["in"]).Scan(0, v).Status));
        double Word(string operation) => new Bench(BlockKind.WordLogic, ["in1", "in2"], null, [("operation", operation)]).Out(0, 0b1100, 0b1010);
        Assert.Equal((0b1000, 0b1110, 0b0110), (Word("and"), Word("or"), Word("xor")));
        double Shifted(string way, double places, double word) => new Bench(BlockKind.ShiftBits, ["in"], [("places", places)], [("way", way)]).Out(0, word);
        Assert.Equal((0x0010, 0x4000), (Shifted("left", 4, 0x8001), Shifted("right", 1, 0x8001)));
        Assert.Equal((0x0003, 0xC000), (Shifted("rotateLeft", 1, 0x8001), Shifted("rotateRight", 1, 0x8001)));
    }

    [Fact]
    public void Counters_count_edges()
    {
        Bench up = On(BlockKind.CountUp, ["cu", "r"], ("pv", 2));
        // On at first is no pulse; a fault between is none either.
        foreach (var (cu, r, count, q) in ((double, double, double, double)[])[(1, 0, 0, 0), (0, 0, 0, 0), (1, 0, 1, 0), (F, 0, 1, 0), (1, 0, 1, 0), (0, 0, 1, 0), (1, 0, 2, 1), (0, 0, 2, 1), (1, 1, 0, 0)]) Assert.Equal((q, count), (up.Out(0, cu, r), up["cv"]));
        Bench down = On(BlockKind.CountDown, ["cd", "ld"], ("pv", 2));
        foreach (var (cd, ld, count, q) in ((double, double, double, double)[])[(0, 0, 0, 1), (0, 1, 2, 0), (0, 0, 2, 0), (1, 0, 1, 0), (0, 0, 1, 0), (1, 0, 0, 1), (0, 0, 0, 1), (1, 0, -1, 1)]) Assert.Equal((q, count), (down.Out(0, cd, ld), down["cv"]));
        Bench both = On(BlockKind.CountUpDown, ["cu", "cd", "r", "ld"], ("pv", 3));
        foreach (var (cu, cd, r, ld, count) in ((double, double, double, double, double)[])[(0, 0, 0, 0, 0), (1, 0, 0, 0, 1), (0, 0, 0, 0, 1), (1, 1, 0, 0, 1), (0, 0, 0, 0, 1), (0, 1, 0, 0, 0), (0, 0, 0, 1, 3), (0, 0, 1, 1, 0)])
        {
            Assert.Equal(count >= 3 ? 1 : 0, both.Out(0, cu, cd, r, ld));
            Assert.Equal((count, count <= 0 ? 1 : 0), (both["cv"], both["qd"]));
        }
    }

    [Theory]
    [InlineData("near", 0.5, 20.24, 20)]
    [InlineData("near", 0.5, 20.26, 20.5)]
    [InlineData("near", 1, 2.5, 2)]
    [InlineData("near", 1, 3.5, 4)]
    [InlineData("down", 1, -2.1, -3)]
    [InlineData("up", 1, 2.1, 3)]
    [InlineData("zero", 1, -2.9, -2)]
    [InlineData("down", 0.1, 0.3, 0.3)]
    public void Rounding_goes_to_steps(string way, double step, double value, double expected) => Assert.Equal(expected, new Bench(BlockKind.Round, ["in"], [("step", step)], [("way", way)]).Out(0, value), 1e-12);

    [Fact]
    public void Arithmetic_gives_what_a_pocket_calculator_does()
    {
        Bench whole = On(BlockKind.WholeQuotient, ["in1", "in2"]);
        Assert.Equal((3, 1), (whole.Out(0, 7, 2), whole["rest"]));
        Assert.Equal((-3, -1), (whole.Out(0, -7, 2), whole["rest"]));
        Assert.Equal((StatusFlags.Fault, StatusFlags.Fault), (whole.Scan(0, 7, 0).Status, whole.Read("rest").Status));
        // An orifice: 12 m³/h at 1 Pa, so 120 m³/h at 100 Pa.
        Assert.Equal(120, On(BlockKind.Root, ["in"], ("factor", 12)).Out(0, 100));
        Assert.Equal(StatusFlags.Fault, On(BlockKind.Root, ["in"]).Scan(0, -0.01).Status);
        Assert.Equal((8, 0.5), (On(BlockKind.Power, ["in1", "in2"]).Out(0, 2, 3), On(BlockKind.Power, ["in1", "in2"]).Out(0, 4, -0.5)));
        Assert.Equal(StatusFlags.Fault, On(BlockKind.Power, ["in1", "in2"]).Scan(0, -4, 0.5).Status);
        Assert.Equal((3, 3, 2.5), (On(BlockKind.Median, ["in1", "in2", "in3"]).Out(0, 100, 3, 2), On(BlockKind.Median, ["in1", "in2", "in3"]).Out(0, 3, R, R), On(BlockKind.Median, ["in1", "in2", "in3"]).Out(0, 3, R, 2)));
        Assert.Equal((5, 1, 0), (On(BlockKind.ToNumber, ["in"], ("on", 5)).Out(0, 1), On(BlockKind.ToBinary, ["in"]).Out(0, -0.1), On(BlockKind.ToBinary, ["in"]).Out(0, 0)));
    }

    [Theory]
    [InlineData("ln", 2.718281828459045, 1)]
    [InlineData("log", 1000, 3)]
    [InlineData("exp", 0, 1)]
    [InlineData("asin", 0.5, 0.5235987755982989)]
    [InlineData("acos", 0.5, 1.0471975511965979)]
    [InlineData("atan", 1, 0.7853981633974483)]
    [InlineData("ln", -1, double.NaN)]
    [InlineData("asin", 1.1, double.NaN)]
    public void Functions_are_those_of_mathematics(string of, double x, double expected) => Assert.Equal(expected, new Bench(BlockKind.Function, ["in"], null, [("of", of)]).Out(0, x), 1e-12);

    [Fact]
    public void Functions_of_angles_take_degrees_as_such()
    {
        double Of(string of, string unit, double x) => new Bench(BlockKind.Function, ["in"], null, [("of", of)], unit).Out(0, x);
        Assert.Equal(0.5, Of("sin", "°", 30), 1e-12);
        Assert.Equal(0.5, Of("cos", "°", 60), 1e-12);
        Assert.Equal(1, Of("tan", "°", 45), 1e-12);
        Assert.Equal(1, Of("sin", "", Math.PI / 2), 1e-12);
        Assert.NotEmpty(Bench.Problems(new Block { Id = "b", Kind = BlockKind.Function }, [("in", "°")], false));
    }

    private static string Trace(Bench bench, string pin, int seconds, Func<int, double[]> inputs)
    {
        string seen = "";
        for (int s = 0; s < seconds; s++)
        {
            bench.Scan(s, inputs(s));
            seen += bench[pin] is var v && double.IsNaN(v) ? "-" : v.ToString(System.Globalization.CultureInfo.InvariantCulture);
        }
        return seen;
    }

    [Fact]
    public void A_staircase_warns_before_it_goes_and_each_press_begins_anew()
    {
        Bench stairs = On(BlockKind.Staircase, ["in"], ("time", 6), ("before", 2));
        Func<int, double[]> press = s => [s is 1 or 5 ? 1 : s == 3 ? F : 0];
        Assert.Equal("01111111111000", Trace(stairs, "out", 14, press));
        stairs = On(BlockKind.Staircase, ["in"], ("time", 6), ("before", 2));
        Assert.Equal("00000000011000", Trace(stairs, "warning", 14, press));
    }

    [Fact]
    public void A_countdown_tells_what_is_left()
    {
        Bench count = On(BlockKind.Countdown, ["in", "stop"], ("length", 5));
        Func<int, double[]> story = s => [s is 1 or 3 or 10 ? 1 : 0, s == 12 ? 1 : 0];
        Assert.Equal("05454321005400", Trace(count, "left", 14, story));
        Assert.Equal("054321000054", Trace(new Bench(BlockKind.Countdown, ["in", "stop"], [("length", 5)], [("again", "goOn")]), "left", 12, story));
    }

    [Fact]
    public void Blinking_begins_with_on() => Assert.Equal("01110011100100", Trace(On(BlockKind.Blink, ["in"], ("on", 3), ("off", 2)), "out", 14, s => [s is 0 or 9 or 10 or > 11 ? 0 : 1]));

    [Fact]
    public void Something_seen_once_in_each_of_two_windows_counts()
    {
        // Windows of 10 s: seen in the first, third and fourth.
        string row = Trace(On(BlockKind.SeenInWindows, ["in"], ("window", 10), ("count", 2)), "out", 61, s => [s is 4 or 22 or 35 ? 1 : 0]);
        Assert.Equal(new string('0', 40) + new string('1', 10) + new string('0', 11), row);
    }

    [Fact]
    public void A_window_that_went_by_between_two_scans_was_seen_by_nobody()
    {
        // Scans every 5 s and windows of 2 s: of the windows between two scans one at least is unseen, whatever is true at the scans.
        Bench bench = On(BlockKind.SeenInWindows, ["in"], ("window", 2), ("count", 2));
        for (int s = 0; s < 100; s += 5)
        {
            bench.Scan(s, [1]);
            Assert.Equal((0, true), (bench["out"], bench["row"] <= 1));
        }
        // Windows that are longer than a scan are seen, one after the other.
        Bench faster = On(BlockKind.SeenInWindows, ["in"], ("window", 10), ("count", 2));
        for (int s = 0; s <= 30; s += 5) faster.Scan(s, [1]);
        Assert.Equal(1, faster["out"]);
    }

    [Fact]
    public void A_moving_window_is_over_the_last_stretch()
    {
        Bench Of(string of) => new(BlockKind.Window, ["in"], [("length", 60)], [("of", of)], "°C");
        // 20 °C for 100 s, then 26 °C: half a minute later half of the minute was 26.
        double At(string of, int second)
        {
            Bench bench = Of(of);
            for (int s = 0; s < second; s++) bench.Scan(s, s < 100 ? 20 : 26);
            return bench.Out(second, second < 100 ? 20 : 26);
        }
        Assert.Equal(20, At("mean", 99), 1e-9);
        Assert.Equal(23, At("mean", 130), 1e-9);
        Assert.Equal(26, At("mean", 160), 1e-9);
        Assert.Equal((20, 26), (At("least", 150), At("greatest", 101)));
        Assert.Equal((20, 26), (At("median", 125), At("median", 135)));
        // A part later everything before has gone.
        Assert.Equal(26, At("least", 162));
    }

    [Fact]
    public void A_dead_time_gives_what_was()
    {
        Bench dead = On(BlockKind.DeadTime, ["in"], ("time", 59));
        for (int s = 0; s < 200; s++)
        {
            double now = dead.Out(s, s);
            if (s > 60) Assert.InRange(s - now, 58, 60);
            else if (s < 58) Assert.Equal(0, now);
        }
    }

    /// <summary>At any scan period a step comes no earlier than its time, and no later than a 59th of it and a scan after.</summary>
    [Theory]
    [InlineData(0.1)]
    [InlineData(1)]
    [InlineData(7)]
    [InlineData(60)]
    [InlineData(200)]
    public void A_dead_time_is_never_early(double period)
    {
        foreach (double time in (double[])[5, 59, 120, 600])
        {
            Bench dead = On(BlockKind.DeadTime, ["in"], ("time", time));
            double step = double.NaN, came = double.NaN;
            for (int scan = 0; double.IsNaN(came); scan++)
            {
                double now = scan * period;
                if (scan == 20) step = now;
                if (dead.Out(now, scan >= 20 ? 1 : 0) == 1) came = now;
            }
            Assert.InRange(came - step, time - 1e-6, time + (time / 59) + period + 1e-6);
        }
    }

    [Fact]
    public void Hours_and_starts_are_counted()
    {
        Bench hours = On(BlockKind.RunHours, ["in", "reset"]);
        for (int s = 0; s <= 7200; s += 60) hours.Scan(s, s < 3600 || s >= 5400 ? 1 : 0, 0);
        // On from the first scan is time but no start: 1 h, then half an hour.
        Assert.Equal(1.5, hours["out"], 0.02);
        Assert.Equal(1, hours["starts"]);
        Assert.Equal(0, hours.Out(7260, 1, 1));
    }

    [Theory]
    [InlineData("kW", "kWh", 12, 6)]
    [InlineData("W", "kWh", 12_000, 6)]
    [InlineData("kW", "MWh", 12, 0.006)]
    [InlineData("l/s", "m³", 1, 1.8)]
    [InlineData("kg/h", "kg", 10, 5)]
    [InlineData("", "", 10, 5)]
    public void A_total_is_the_rate_times_the_time_in_its_unit(string rate, string unit, double value, double expected)
    {
        var block = new Block { Id = "b", Kind = BlockKind.Total, OutputUnit = unit.Length == 0 ? null : unit };
        var total = new Bench(block, [("in", rate), ("reset", "")]);
        for (int s = 0; s <= 1800; s += 10) total.Scan(s, value, 0);
        Assert.Equal(expected, total["out"], 1e-9);
        Assert.Equal(StatusFlags.Stale, total.Scan(1800, F, 0).Status);
        Assert.Equal(expected, total["out"], 1e-9);
    }

    [Fact]
    public void A_total_of_what_has_none_is_refused()
    {
        Assert.Contains("cannot add up a temperature (°C) over time", Bench.Problems(new Block { Id = "b", Kind = BlockKind.Total }, [("in", "°C")], false)[0]);
        Assert.Contains("is not given in m³", Bench.Problems(new Block { Id = "b", Kind = BlockKind.Total, OutputUnit = "m³" }, [("in", "kW")], false)[0]);
    }

    [Fact]
    public void A_filter_has_let_63_percent_through_after_its_time_constant()
    {
        Bench filter = On(BlockKind.Filter, ["in"], ("time", 100));
        filter.Scan(0, 0);
        for (int s = 1; s <= 100; s++) filter.Scan(s, 10);
        Assert.Equal(10 * (1 - Math.Exp(-1)), filter["out"], 1e-9);
    }

    [Fact]
    public void A_ramp_goes_no_faster_than_it_may()
    {
        Bench ramp = On(BlockKind.Ramp, ["in"], ("up", 6), ("down", 0));
        ramp.Scan(0, 20);
        Assert.Equal((21, 22), (ramp.Out(10, 26), ramp.Out(20, 22)));
        Assert.Equal(5, ramp.Out(21, 5));
    }

    [Fact]
    public void A_rate_of_change_is_the_slope()
    {
        var rate = new Bench(BlockKind.Derivative, ["in"], [("filter", 30), ("per", 3600)], null, "°C");
        // 0.01 K a second is 36 K an hour.
        for (int s = 0; s <= 600; s++) rate.Scan(s, 20 + (0.01 * s));
        Assert.Equal(36, rate["out"], 1e-6);
        // A sensor that comes back elsewhere has not changed at that rate.
        rate.Scan(601, F);
        Assert.Equal(36, rate.Out(4000, 5), 1e-6);
        Assert.Equal("K", rate.Typing.Outputs[("b", "out")].Unit?.Symbol);
    }

    [Fact]
    public void Small_changes_are_not_followed()
    {
        Bench quiet = On(BlockKind.Deadband, ["in"], ("by", 0.5));
        Assert.Equal((20, 20, 20.6, 20.6), (quiet.Out(0, 20), quiet.Out(1, 20.5), quiet.Out(2, 20.6), quiet.Out(3, 20.2)));
    }

    [Fact]
    public void Three_positions_have_a_zone_in_which_nothing_moves()
    {
        Bench three = On(BlockKind.ThreePosition, ["measured", "setpoint"], ("zone", 2), ("differential", 0.5));
        // Raises from more than 1 below until 0.5 below.
        foreach (var (measured, raise, lower) in ((double, double, double)[])[(20, 0, 0), (19, 0, 0), (18.9, 1, 0), (19.4, 1, 0), (19.5, 0, 0), (21.1, 0, 1), (20.6, 0, 1), (20.5, 0, 0)]) Assert.Equal((raise, lower), (three.Out(0, measured, 20), three["lower"]));
    }

    [Fact]
    public void Stages_go_on_at_the_end_of_their_share_and_off_at_its_beginning()
    {
        var stages = new Bench(BlockKind.Stages, ["demand"], [("stages", 2), ("interval", 10)], null, "%");
        foreach (var (now, demand, expected) in ((double, double, double)[])[(0, 49, 0), (20, 50, 1), (21, 100, 1), (31, 100, 2), (50, 51, 2), (60, 50, 1), (80, 1, 1), (81, 0, 0)]) Assert.Equal((expected, expected >= 2 ? 1 : 0), (stages.Out(now, demand), stages["s2"]));
    }

    [Fact]
    public void Demand_is_shared_out_one_after_the_other()
    {
        var split = new Bench(new Block { Id = "b", Kind = BlockKind.SplitRange, Numbers = new Dictionary<string, double> { ["dead"] = 20, ["share"] = 50 } }, [("in", "%"), ("air", "")]);
        (double, double, double) Of(double demand, double free) => (split.Out(0, demand, free), split["outside"], split["cool"]);
        Assert.Equal((100, 0, 0), Of(-100, 1));
        Assert.Equal((50, 0, 0), Of(-55, 1));
        Assert.Equal((0, 0, 0), Of(10, 1));
        // (32.5 − 10) ÷ 90 = 25 % of the cooling side: half of the air's share.
        Assert.Equal((0, 50, 0), Of(32.5, 1));
        Assert.Equal((0, 100, 50), Of(77.5, 1));
        Assert.Equal((0, 0, 75), Of(77.5, 0));
        Assert.Equal((0, 0, 75), Of(77.5, F));
    }

    [Fact]
    public void A_fan_breaks_loose_on_its_highest_stage()
    {
        var fan = new Bench(BlockKind.FanStages, ["demand"], [("stages", 3), ("differential", 6), ("kick", 3)], null, "%");
        // Thresholds at 0, 33.3 and 66.7 %, each 6 % more to go on.
        foreach (var (now, demand, expected) in ((double, double, double)[])[(0, 5, 0), (1, 7, 3), (3, 7, 3), (4, 7, 1), (5, 39, 1), (6, 40, 2), (7, 34, 2), (8, 33, 1), (9, 100, 3), (10, 0, 0)])
        {
            Assert.Equal(expected, fan.Out(now, demand));
            Assert.Equal(expected == 0 ? 0 : 1, fan["s1"] + fan["s2"] + fan["s3"]);
        }
    }

    [Fact]
    public void Work_is_shared_by_run_hours_and_a_machine_in_fault_is_replaced_at_once()
    {
        Bench turns = On(BlockKind.Rotation, ["wanted", "fault1", "fault2"], ("machines", 3), ("change", 2));
        (double, double, double) Runs() => (turns["run1"], turns["run2"], turns["run3"]);
        turns.Scan(0, 1, 0, 0);
        Assert.Equal((1, 0, 0), Runs());
        turns.Scan(3600, 1, 1, 0);
        Assert.Equal((0, 1, 0), Runs());
        turns.Scan(3601, 3, 0, 0);
        Assert.Equal((1, 1, 1), Runs());
        // The third has none, the second a second, the first an hour: the first rests first.
        turns.Scan(3602, 2, 0, 0);
        Assert.Equal((0, 1, 1), Runs());
        turns.Scan(3602 + 7200 + 3600, 1, 0, 0);
        Assert.Equal(1, turns["out"]);
        // With two hours more than the first it gives way to it.
        Assert.Equal((1, 0, 0), Runs());
        // More wanted than able.
        turns.Scan(20_000, 3, 1, 1);
        Assert.Equal((0, 0, 1), Runs());
    }

    [Fact]
    public void Loads_go_one_by_one_and_come_back_in_turn()
    {
        Bench shed = On(BlockKind.LoadShed, ["power", "limit"], ("loads", 2), ("after", 10), ("differential", 5), ("restore", 30));
        int Shed(int from, int to, double power)
        {
            for (int s = from; s <= to; s++) shed.Scan(s, power, 100);
            return (int)shed["out"];
        }
        Assert.Equal(0, Shed(0, 9, 101));
        Assert.Equal(1, Shed(10, 18, 101));
        Assert.Equal(2, Shed(19, 40, 101));
        // Scanned once a minute, a load is not shed by the first scan that finds too much.
        Bench slow = On(BlockKind.LoadShed, ["power", "limit"], ("after", 60));
        Assert.Equal((0, 0, 1), (slow.Out(0, 90, 100), slow.Out(60, 101, 100), slow.Out(120, 101, 100)));
        Assert.Equal(2, Shed(41, 100, 96));
        Assert.Equal(1, Shed(101, 135, 94));
        // Without a usable power it keeps what is shed.
        Assert.Equal((1, StatusFlags.Stale), shed.Scan(136, F, 100));
        Assert.Equal(1, shed["s1"]);
    }

    [Fact]
    public void A_share_of_each_period_is_on()
    {
        string Share(double percent) => Trace(new Bench(BlockKind.PulseWidth, ["in"], [("period", 10), ("least", 2)], null, "%"), "out", 20, _ => [percent]);
        Assert.Equal("11111111001111111100", Share(80));
        Assert.Equal("11100000001110000000", Share(30));
        Assert.Equal(new string('0', 20), Share(15));
        Assert.Equal(new string('1', 20), Share(85));
        Assert.Equal(new string('1', 20), Share(120));
    }

    [Fact]
    public void A_drive_finds_itself_and_then_goes_where_it_is_wanted()
    {
        var drive = new Bench(BlockKind.ThreePointDrive, ["in"], [("travel", 100), ("zone", 2)], null, "%");
        int shut = 0, opened = 0;
        for (int s = 0; s < 300; s++)
        {
            drive.Scan(s, 40);
            if (drive["close"] == 1) shut++;
            if (drive["out"] == 1) opened++;
        }
        // The whole way and a tenth more to shut; then 40 % of the way open.
        Assert.Equal((110, 40, 40), (shut, opened, drive["position"]));
        for (int s = 300; s < 320; s++) drive.Scan(s, 41.5);
        Assert.Equal(40, drive["position"]);
        // To the end, and a tenth beyond.
        for (int s = 320; s < 500; s++)
        {
            drive.Scan(s, 100);
            if (drive["out"] == 1) opened++;
        }
        Assert.Equal((40 + 60 + 10, 100), (opened, drive["position"]));
    }

    // IEC 60534-2-4 with a rangeability of 50: 2 % at the shut end, 14.1 % at half lift.
    [Theory]
    [InlineData("equal", "flow", 50, 14.142)]
    [InlineData("equal", "flow", 0, 0)]
    [InlineData("equal", "flow", 100, 100)]
    [InlineData("equal", "lift", 14.142, 50)]
    [InlineData("equal", "lift", 1.9, 0)]
    [InlineData("linear", "lift", 30, 30)]
    [InlineData("quick", "flow", 25, 50)]
    [InlineData("quick", "lift", 50, 25)]
    public void Valves_have_their_characteristic(string characteristic, string gives, double value, double expected) =>
        Assert.Equal(expected, new Bench(BlockKind.ValveCurve, ["in"], null, [("characteristic", characteristic), ("gives", gives)], "%").Out(0, value), 0.001);

    [Fact]
    public void Two_pipe_water_heats_cools_or_neither()
    {
        var pipes = new Bench(BlockKind.TwoPipe, ["in"], [("cool", 17), ("heat", 28), ("differential", 1)], null, "°C");
        Assert.Equal(["neither", "heating", "cooling"], pipes.Typing.Outputs[("b", "out")].States);
        Assert.Equal("1222131131", string.Concat(((double[])[20, 29, 28, 27.1, 26.9, 16, 18.1, 17.5, 16.9, 25]).Select((water, i) => pipes.Out(i, water))));
    }

    [Fact]
    public void Free_cooling_is_allowed_while_it_helps()
    {
        var by = new Bench(BlockKind.EconomiserTemperature, ["outdoor", "extract"], [("differential", 2), ("lowest", 5)], null, "°C");
        Assert.Equal("011100010", string.Concat(((double[])[22, 21, 23, 22.9, 23.1, 22.5, 4, 20, 4]).Select((t, i) => by.Out(i, t, 23.05))));
        (string, string)[] air = [("outdoor", "°C"), ("outdoorHumidity", "%RH"), ("extract", "°C"), ("extractHumidity", "%RH")];
        var heat = new Bench(new Block { Id = "b", Kind = BlockKind.EconomiserEnthalpy }, air);
        // 22 °C at 90 % holds 60 kJ/kg, more than the 50 of the warmer 25 °C at 50 %; at 40 % it holds 39.
        Assert.Equal((0, 1), (heat.Out(0, 22, 90, 25, 50), heat.Out(1, 22, 40, 25, 50)));
        Assert.Equal(StatusFlags.Fault, heat.Scan(2, 70, 40, 25, 50).Status);
    }

    [Fact]
    public void Fresh_air_follows_carbon_dioxide()
    {
        var demand = new Bench(BlockKind.Co2Demand, ["in"], null, null, "ppm");
        // 420 outdoors: from 600 to 1000.
        Assert.Equal((0, 50, 100), (demand.Out(0, 590), demand.Out(0, 800), demand.Out(0, 1500)));
        Assert.Equal(50, new Bench(BlockKind.Co2Demand, ["in", "outdoor"], null, null, "ppm").Out(0, 880, 500));
    }

    [Fact]
    public void The_night_purges_what_the_day_left()
    {
        var purge = new Bench(new Block { Id = "b", Kind = BlockKind.NightPurge }, [("indoor", "°C"), ("outdoor", "°C"), ("target", "°C"), ("occupied", "")]);
        Assert.Equal((0, 1, 1), (purge.Out(0, 26, 18, 22, 1), purge.Out(1, 26, 18, 22, 0), purge.Out(2, 22.5, 18, 22, 0)));
        Assert.Equal((0, 0, 0), (purge.Out(3, 22, 18, 22, 0), purge.Out(4, 23, 18, 22, 0), purge.Out(5, 26, 9, 22, 0)));
    }

    [Fact]
    public void Frost_heats_in_time_trips_and_does_not_trust_a_blind_eye()
    {
        var frost = new Bench(new Block { Id = "b", Kind = BlockKind.Frost, Numbers = new Dictionary<string, double> { ["delay"] = 5 }, Choices = new Dictionary<string, string> { ["after"] = "reset" } }, [("measured", "°C"), ("reset", "")]);
        Assert.Equal((0, 0), (frost.Out(0, 10, 0), frost["heat"]));
        Assert.Equal((0, 50), (frost.Out(1, 7.5, 0), frost["heat"]));
        // The 5 s count from the scan that first saw it below.
        frost.Scan(2, 4.9, 0);
        Assert.Equal(0, frost.Out(6, 4.9, 0));
        Assert.Equal((1, 100), (frost.Out(7, 4.9, 0), frost["heat"]));
        Assert.Equal(1, frost.Out(7.5, 4.9, 1));
        Assert.Equal(1, frost.Out(8, 8, 0));
        Assert.Equal(0, frost.Out(9, 8, 1));
        Assert.Equal((1, 100), (frost.Out(10, F, 0), frost["heat"]));
    }

    /// <summary>A room that warms by 1 K in 20 minutes, with a first guess of 15: after some starts the block knows it, and keeps it.</summary>
    [Fact]
    public void Optimum_start_learns_how_long_the_room_takes()
    {
        Block block = new() { Id = "b", Kind = BlockKind.OptimumStart, Numbers = new Dictionary<string, double> { ["learn"] = 50 } };
        (string, string)[] pins = [("occupied", ""), ("left", "s"), ("measured", "°C"), ("target", "°C")];
        var start = new Bench(block, pins);
        double room = 17, late = double.NaN;
        for (int day = 0; day < 8; day++)
        {
            room = 17;
            late = double.NaN;
            for (int s = 0; s < 36_000; s += 60)
            {
                bool occupied = s >= 28_800;
                double heats = start.Out((day * 86_400) + s, occupied ? 1 : 0, occupied ? 7200 : 28_800 - s, room, 21);
                if (heats == 1 && room < 21) room += 60 / 1200.0;
                if (s == 28_800) late = 21 - room;
            }
            if (day == 0) Assert.InRange(late, 0.8, 1.2);
        }
        Assert.InRange(late, -0.1, 0.3);
        Assert.Equal(20, start["learned"], 0.5);
        // A start that is called off ends: the schedule changes only tomorrow after all.
        var off = new Bench(block, pins);
        Assert.Equal((1, 0), (off.Out(0, 0, 1000, 17, 21), off.Out(1, 0, 80_000, 17, 21)));
        var other = new Bench(block, pins);
        other.Recall(start.Remember());
        other.Scan(0, 0, 50_000, 17, 21);
        Assert.Equal(20, other["learned"], 0.5);
    }

    [Fact]
    public void A_controller_tells_its_blocks_of_itself()
    {
        var cause = new Bench(new Block { Id = "b", Kind = BlockKind.StartCause }, []);
        // In the order of the facts: cause 4, s since it, status 1, time of day 13:30, weekday 4.
        PinValue[] told = [.. ((double[])[4, 12.5, 1, 48_600, 4]).Select(v => new PinValue(v, StatusFlags.None))];
        cause.ScanAll(0, told);
        Assert.Equal((4, 12.5, "power return"), (cause["out"], cause["since"], cause.Typing.Outputs[("b", "out")].States![3]));
        var clock = new Bench(new Block { Id = "b", Kind = BlockKind.Clock }, []);
        clock.ScanAll(0, told);
        Assert.Equal((13.5, 4, "Thursday"), (clock["out"], clock["day"], clock.Typing.Outputs[("b", "day")].States![3]));
        var status = new Bench(new Block { Id = "b", Kind = BlockKind.SystemStatus }, []);
        status.ScanAll(0, told);
        Assert.Equal((1, "operational"), (status["out"], status.Typing.Outputs[("b", "out")].States![0]));
    }

    /// <summary>What is fed forward comes through at once, and the loop does not wind up against it.</summary>
    [Fact]
    public void Feed_forward_adds_to_a_loop()
    {
        var loop = new Bench(BlockKind.Pid, ["measured", "setpoint", "forward"], [("gain", 10), ("ti", 100)], null, "°C");
        Assert.Equal(30, loop.Out(0, 20, 20, 30));
        // 1 K: 10 %, and for each second 0.1 % more.
        Assert.Equal(40.1, loop.Out(1, 19, 20, 30), 1e-9);
        for (int s = 2; s < 400; s++) loop.Scan(s, 19, 20, 95);
        Assert.Equal(100, loop["out"]);
        // At the limit the integral had gone back to nothing: 10 % and what is fed forward.
        Assert.InRange(loop.Out(400, 19, 20, 50), 60, 65);
        Assert.Equal(loop.Out(401, 20, 20, F), loop.Out(401, 20, 20, 0));
    }
}
