using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>Every kind of block against its formula, status rule and edge cases as stated in <see cref="BlockKind"/>.</summary>
public class BlockTests
{
    private const double Released = double.NaN, Fault = double.PositiveInfinity;
    private static readonly string[] Two = ["in1", "in2"], One = ["in"];

    [Theory]
    [InlineData(BlockKind.And, 0, 0, 0)]
    [InlineData(BlockKind.And, 0, 1, 0)]
    [InlineData(BlockKind.And, 1, 1, 1)]
    [InlineData(BlockKind.Or, 0, 0, 0)]
    [InlineData(BlockKind.Or, 0, 1, 1)]
    [InlineData(BlockKind.Or, 1, 1, 1)]
    [InlineData(BlockKind.Xor, 0, 0, 0)]
    [InlineData(BlockKind.Xor, 0, 1, 1)]
    [InlineData(BlockKind.Xor, 1, 1, 0)]
    public void Logic_follows_its_truth_table(BlockKind kind, double a, double b, double expected) => Assert.Equal(expected, new Bench(kind, Two).Out(0, a, b));

    [Fact]
    public void One_usable_false_decides_an_AND_and_one_usable_true_an_OR()
    {
        Assert.Equal(0, new Bench(BlockKind.And, Two).Out(0, 0, Fault));
        Assert.Equal(StatusFlags.Fault, new Bench(BlockKind.And, Two).Scan(0, 1, Fault).Status);
        Assert.Equal(StatusFlags.Released, new Bench(BlockKind.And, Two).Scan(0, 1, Released).Status);
        Assert.Equal(1, new Bench(BlockKind.Or, Two).Out(0, 1, Fault));
        Assert.Equal(StatusFlags.Fault, new Bench(BlockKind.Or, Two).Scan(0, Released, Fault).Status);
    }

    [Fact]
    public void Open_inputs_are_not_counted()
    {
        Assert.Equal(1, new Bench(BlockKind.And, ["in1"]).Out(0, 1));
        Assert.Equal(7, new Bench(BlockKind.Add, ["in1"]).Out(0, 7));
        Assert.Equal(StatusFlags.Released, new Bench(BlockKind.And, []).Scan(0).Status);
    }

    [Theory]
    [InlineData(BlockKind.Gt, 2, 1, 1)]
    [InlineData(BlockKind.Gt, 2, 2, 0)]
    [InlineData(BlockKind.Ge, 2, 2, 1)]
    [InlineData(BlockKind.Lt, 1, 2, 1)]
    [InlineData(BlockKind.Lt, 2, 2, 0)]
    [InlineData(BlockKind.Le, 2, 2, 1)]
    [InlineData(BlockKind.Eq, 2, 2, 1)]
    [InlineData(BlockKind.Eq, 2, 3, 0)]
    [InlineData(BlockKind.Ne, 2, 3, 1)]
    [InlineData(BlockKind.Add, 2, 3, 5)]
    [InlineData(BlockKind.Sub, 2, 3, -1)]
    [InlineData(BlockKind.Mul, 2, 3, 6)]
    [InlineData(BlockKind.Div, 3, 2, 1.5)]
    [InlineData(BlockKind.Min, 2, 3, 2)]
    [InlineData(BlockKind.Max, 2, 3, 3)]
    [InlineData(BlockKind.Average, 2, 3, 2.5)]
    public void Comparing_and_arithmetic_follow_their_formulas(BlockKind kind, double a, double b, double expected) => Assert.Equal(expected, new Bench(kind, Two).Out(0, a, b));

    [Theory]
    [InlineData(BlockKind.Gt)]
    [InlineData(BlockKind.Add)]
    [InlineData(BlockKind.Sub)]
    [InlineData(BlockKind.Mul)]
    [InlineData(BlockKind.Div)]
    [InlineData(BlockKind.Xor)]
    public void Fault_comes_before_released_and_neither_becomes_a_number(BlockKind kind)
    {
        var bench = new Bench(kind, Two);
        Assert.Equal((double.NaN, StatusFlags.Released), bench.Scan(0, 1, Released));
        Assert.Equal((double.NaN, StatusFlags.Fault), bench.Scan(1, Fault, Released));
        Assert.Equal(StatusFlags.None, bench.Scan(2, 1, 1).Status);
    }

    [Fact]
    public void Division_by_zero_is_a_fault() => Assert.Equal((double.NaN, StatusFlags.Fault), new Bench(BlockKind.Div, Two).Scan(0, 1, 0));

    [Fact]
    public void Least_greatest_and_average_leave_released_inputs_out()
    {
        Assert.Equal(3, new Bench(BlockKind.Min, Two).Out(0, Released, 3));
        Assert.Equal(3, new Bench(BlockKind.Average, Two).Out(0, Released, 3));
        Assert.Equal(StatusFlags.Released, new Bench(BlockKind.Max, Two).Scan(0, Released, Released).Status);
        Assert.Equal(StatusFlags.Fault, new Bench(BlockKind.Average, Two).Scan(0, 3, Fault).Status);
    }

    [Fact]
    public void NOT_and_size()
    {
        Assert.Equal(0, new Bench(BlockKind.Not, One).Out(0, 1));
        Assert.Equal(4, new Bench(BlockKind.Abs, One).Out(0, -4));
    }

    [Fact]
    public void Limit_holds_between_and_faults_when_no_value_can_meet_both()
    {
        var bench = new Bench(BlockKind.Limit, ["low", "in", "high"]);
        Assert.Equal(10, bench.Out(0, 10, 5, 20));
        Assert.Equal(15, bench.Out(1, 10, 15, 20));
        Assert.Equal(20, bench.Out(2, 10, 25, 20));
        Assert.Equal(StatusFlags.Fault, bench.Scan(3, 20, 15, 10).Status);
    }

    [Fact]
    public void Select_takes_the_status_of_the_chosen_input_only()
    {
        var bench = new Bench(BlockKind.Sel, ["g", "in0", "in1"]);
        Assert.Equal(5, bench.Out(0, 0, 5, Fault));
        Assert.Equal(StatusFlags.Fault, bench.Scan(1, 1, 5, Fault).Status);
        Assert.Equal(StatusFlags.Released, bench.Scan(2, Released, 5, 6).Status);
    }

    // IEC 61131-3, tables of SR and RS: with both inputs true, SR is set and RS is reset.
    [Theory]
    [InlineData(BlockKind.Sr, "s1", "r", 1)]
    [InlineData(BlockKind.Rs, "s", "r1", 0)]
    public void Latches_remember_and_differ_when_both_ask(BlockKind kind, string set, string reset, double both)
    {
        var bench = new Bench(kind, [set, reset]);
        Assert.Equal(0, bench.Out(0, 0, 0));
        Assert.Equal(1, bench.Out(1, 1, 0));
        Assert.Equal(1, bench.Out(2, 0, 0));
        Assert.Equal(1, bench.Out(3, Fault, Released));
        Assert.Equal(0, bench.Out(4, 0, 1));
        Assert.Equal(both, bench.Out(5, 1, 1));
    }

    [Fact]
    public void Edges_last_one_scan_and_the_first_scan_is_none()
    {
        var rising = new Bench(BlockKind.RisingEdge, One);
        Assert.Equal([0, 0, 0, 1, 0], [rising.Out(0, 1), rising.Out(1, 1), rising.Out(2, 0), rising.Out(3, 1), rising.Out(4, 1)]);
        var falling = new Bench(BlockKind.FallingEdge, One);
        Assert.Equal([0, 1, 0], [falling.Out(0, 1), falling.Out(1, 0), falling.Out(2, 0)]);
    }

    [Fact]
    public void An_edge_over_a_fault_is_found_when_the_input_is_usable_again()
    {
        var rising = new Bench(BlockKind.RisingEdge, One);
        rising.Out(0, 0);
        Assert.Equal(StatusFlags.Fault, rising.Scan(1, Fault).Status);
        Assert.Equal(1, rising.Out(2, 1));
    }

    // IEC 61131-3, figure of TON: on once the input has been on for 10 s; a shorter one is never seen.
    [Fact]
    public void On_delay()
    {
        var ton = new Bench(BlockKind.Ton, One, [("pt", 10)]);
        Assert.Equal(0, ton.Out(0, 1));
        Assert.Equal(0, ton.Out(9, 1));
        Assert.Equal(9, ton.Read("et").Value);
        Assert.Equal(1, ton.Out(10, 1));
        Assert.Equal(10, ton.Read("et").Value);
        Assert.Equal(0, ton.Out(11, 0));
        Assert.Equal(0, ton.Out(12, 1));
        Assert.Equal(0, ton.Out(20, 0));
    }

    [Fact]
    public void On_delay_stands_still_in_a_fault_and_zero_passes_at_once()
    {
        var ton = new Bench(BlockKind.Ton, One, [("pt", 10)]);
        ton.Out(0, 1);
        ton.Out(5, 1);
        Assert.Equal(StatusFlags.Fault, ton.Scan(50, Fault).Status);
        Assert.Equal(0, ton.Out(51, 1));
        Assert.Equal(1, ton.Out(56, 1));
        Assert.Equal(1, new Bench(BlockKind.Ton, One, [("pt", 0)]).Out(0, 1));
    }

    [Fact]
    public void Off_delay()
    {
        var tof = new Bench(BlockKind.Tof, One, [("pt", 10)]);
        Assert.Equal(0, tof.Out(0, 0));
        Assert.Equal(1, tof.Out(1, 1));
        Assert.Equal(1, tof.Out(2, 0));
        Assert.Equal(1, tof.Out(11, 0));
        Assert.Equal(0, tof.Out(12, 0));
        Assert.Equal(1, tof.Out(13, 1));
    }

    [Fact]
    public void A_pulse_has_its_length_whatever_the_input_does()
    {
        var tp = new Bench(BlockKind.Tp, One, [("pt", 10)]);
        Assert.Equal(0, tp.Out(0, 0));
        Assert.Equal(1, tp.Out(1, 1));
        Assert.Equal(1, tp.Out(3, 0));
        Assert.Equal(1, tp.Out(5, 1));
        Assert.Equal(1, tp.Out(7, Fault));
        Assert.Equal(0, tp.Out(11, 1));
        Assert.Equal(0, tp.Out(20, 1));
        tp.Out(21, 0);
        Assert.Equal(1, tp.Out(22, 1));
    }

    [Fact]
    public void Two_position_on_rise_releases_when_idle()
    {
        var block = new Bench(BlockKind.TwoPosition, ["measured", "limit"], [("differential", 2)], unit: "°C");
        Assert.Equal(StatusFlags.Released, block.Scan(0, 29, 29).Status);
        Assert.Equal(1, block.Out(1, 29.01, 29));
        Assert.Equal(1, block.Out(2, 27, 29));
        Assert.Equal(StatusFlags.Released, block.Scan(3, 26.99, 29).Status);
        Assert.Equal(StatusFlags.Released, block.Scan(4, 28, 29).Status);
    }

    [Fact]
    public void Two_position_on_fall_commands_off_when_so_chosen()
    {
        var block = new Bench(BlockKind.TwoPosition, ["measured", "limit"], [("differential", 2)], [("acts", "onFall"), ("idle", "off")], "°C");
        Assert.Equal(0, block.Out(0, 20, 20));
        Assert.Equal(1, block.Out(1, 19.9, 20));
        Assert.Equal(1, block.Out(2, 22, 20));
        Assert.Equal(0, block.Out(3, 22.1, 20));
        Assert.Equal(StatusFlags.Fault, block.Scan(4, Fault, 20).Status);
        Assert.Equal(StatusFlags.Released, block.Scan(5, 19, Released).Status);
    }

    [Fact]
    public void Scale_holds_its_ends_or_carries_on()
    {
        (string, double)[] range = [("inLow", 400), ("inHigh", 1200), ("outLow", 20), ("outHigh", 100)];
        var hold = new Bench(BlockKind.Scale, One, range);
        Assert.Equal(60, hold.Out(0, 800), 1e-9);
        Assert.Equal(100, hold.Out(1, 2000));
        Assert.Equal(180, new Bench(BlockKind.Scale, One, range, [("ends", "carryOn")]).Out(0, 2000), 1e-9);
    }

    /// <summary>A heating curve by hand: 70 °C at −15 °C, 45 °C at 5 °C, 25 °C at 20 °C. At −5 °C: 70 + 10/20 × (45 − 70) = 57.5; at 14 °C: 45 + 9/15 × (25 − 45) = 33; carried on to 23 °C: 45 + 18/15 × (25 − 45) = 21, to −19 °C: 70 + (−4/20) × (45 − 70) = 75.</summary>
    [Theory]
    [InlineData("hold", -5, 57.5)]
    [InlineData("hold", 14, 33)]
    [InlineData("hold", -15, 70)]
    [InlineData("hold", 5, 45)]
    [InlineData("hold", 20, 25)]
    [InlineData("hold", 23, 25)]
    [InlineData("hold", -19, 70)]
    [InlineData("carryOn", 23, 21)]
    [InlineData("carryOn", -19, 75)]
    [InlineData("carryOn", 14, 33)]
    public void A_curve_goes_along_its_points(string ends, double at, double expected) =>
        Assert.Equal(expected, new Bench(BlockKind.Curve, One, choices: [("ends", ends)], table: ("points", [new(-15, 70), new(5, 45), new(20, 25)])).Out(0, at), 1e-9);

    [Fact]
    public void A_row_that_lacks_a_number_is_no_row() =>
        Assert.Contains("'y'", Assert.Throws<System.Text.Json.JsonException>(() => System.Text.Json.JsonSerializer.Deserialize<TableRow>("{\"x\":1}", LoftyWren.Core.Records.RecordJson.Options)).Message);

    [Fact]
    public void A_curve_of_two_points_is_a_scale_and_any_curve_stays_between_its_neighbouring_points()
    {
        var random = new Random(7);
        for (int n = 0; n < 200; n++)
        {
            double[] places = [.. Enumerable.Range(0, random.Next(2, 32)).Select(_ => Math.Round((random.NextDouble() * 200) - 100, 2)).Distinct().Order()];
            if (places.Length < 2) continue;
            TableRow[] rows = [.. places.Select(x => new TableRow(x, Math.Round((random.NextDouble() * 200) - 100, 2)))];
            var curve = new Bench(BlockKind.Curve, One, table: ("points", rows));
            var scale = new Bench(BlockKind.Scale, One, [("inLow", rows[0].X), ("inHigh", rows[1].X), ("outLow", rows[0].Y), ("outHigh", rows[1].Y)]);
            for (int i = 0; i < 20; i++)
            {
                double x = (random.NextDouble() * 260) - 130, y = curve.Out(0, x);
                TableRow before = rows.LastOrDefault(r => r.X <= x, rows[0]), after = rows.FirstOrDefault(r => r.X >= x, rows[^1]);
                Assert.InRange(y, Math.Min(before.Y, after.Y) - 1e-9, Math.Max(before.Y, after.Y) + 1e-9);
                if (x <= rows[1].X) Assert.Equal(scale.Out(0, x), y, 1e-9);
            }
        }
        Assert.Equal(StatusFlags.Fault, new Bench(BlockKind.Curve, One).Scan(0, Fault).Status);
        Assert.Equal(40, new Bench(BlockKind.Curve, One).Out(0, 40), 1e-9);
    }

    [Fact]
    public void Minimum_times_keep_a_state()
    {
        var block = new Bench(BlockKind.MinimumTimes, One, [("minOn", 100), ("minOff", 50)]);
        Assert.Equal(1, block.Out(0, 1));
        Assert.Equal(1, block.Out(99, 0));
        Assert.Equal(0, block.Out(100, 0));
        Assert.Equal(0, block.Out(149, 1));
        Assert.Equal(1, block.Out(150, 1));
    }

    // Called for at 0 s, idle (released) at 30 s, called for again at 60 s, idle at 70 s; 600 s on, 300 s off.
    [Fact]
    public void Minimum_times_hold_behind_a_control_that_releases_or_fails()
    {
        foreach (double idle in new[] { Released, Fault, 0 })
        {
            var block = new Bench(BlockKind.MinimumTimes, One, [("minOn", 600), ("minOff", 300)]);
            Assert.Equal(1, block.Out(0, 1));
            Assert.Equal(1, block.Out(30, idle));
            Assert.Equal(1, block.Out(60, 1));
            Assert.Equal(1, block.Out(70, idle));
            Assert.Equal(1, block.Out(599, idle));
            Assert.Equal(0, block.Out(600, idle));
            Assert.Equal(0, block.Out(610, 1));
            Assert.Equal(0, block.Out(899, 1));
            Assert.Equal(1, block.Out(900, 1));
        }
    }

    // The output at 0, 600, 900, 1500 and 1800 s at most: four changes after the first start.
    [Fact]
    public void Thresholds_crossed_twice_a_minute_for_half_an_hour_make_four_changes()
    {
        var block = new Bench(BlockKind.MinimumTimes, One, [("minOn", 600), ("minOff", 300)]);
        double before = double.NaN;
        int changes = -1;
        for (int s = 0; s < 1800; s++)
        {
            double now = block.Out(s, s % 30 < 15 ? 1 : Released);
            if (!now.Equals(before)) changes++;
            before = now;
        }
        Assert.InRange(changes, 3, 4);
    }

    [Theory]
    [InlineData(0.1)]
    [InlineData(0.7)]
    [InlineData(3)]
    public void Delays_are_neither_early_nor_a_scan_late_at_any_scan_period(double period)
    {
        foreach (BlockKind kind in new[] { BlockKind.Ton, BlockKind.Tof, BlockKind.Tp })
        {
            var timer = new Bench(kind, One, [("pt", 21)]);
            double input = kind == BlockKind.Ton ? 1 : 0;
            timer.Out(0, kind == BlockKind.Tof ? 1 : 0);
            timer.Out(period, kind == BlockKind.Tof ? 0 : 1);
            int scans = (int)Math.Ceiling((21 / period) - 1e-9);
            for (int n = 1; n < scans; n++) Assert.Equal(kind == BlockKind.Ton ? 0 : 1, timer.Out(period + (n * period), input));
            Assert.Equal(kind == BlockKind.Ton ? 1 : 0, timer.Out(period + (scans * period), input));
        }
    }

    [Fact]
    public void Every_kind_has_a_definition_and_complete_help()
    {
        foreach (BlockKind kind in Enum.GetValues<BlockKind>())
        {
            Assert.Equal(kind, BlockType.Of(kind).Kind);
            BlockHelp help = BlockHelp.Of(kind);
            Assert.All([help.Summary, help.Formula, help.Units, help.Status, help.Edges], text => Assert.False(string.IsNullOrWhiteSpace(text), $"{kind}"));
        }
    }
}
