using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Commissioning;

public class PointCheckTests
{
    private static readonly Project House = Project();

    private static PointExpectation Of(string fitting, Func<Fitting, Fitting>? with = null)
    {
        Fitting it = House.Find<Fitting>(new RecordId(fitting))!;
        it = with?.Invoke(it) ?? it;
        return PointCheck.Of(House, it, House.Find<Point>(it.PointId)!);
    }

    // The kiln room's sensor has no limits, so the middle of 0 to 100 °C counts: class B is ±(0.3 + 0.005·50) = 0.55 K, and twice that 1.1 K.
    [Fact]
    public void What_is_expected_follows_from_how_a_point_is_wired()
    {
        PointExpectation sensor = Of("f1");
        Assert.Equal(("Pt1000 by the IEC 60751 curve", 0.8, "usual where no class is known"), (sensor.Expects, sensor.Allowed, sensor.AllowedBecause));
        Assert.Empty(sensor.Steps);
        PointExpectation classed = Of("f1", f => f with { ToleranceClass = "B" });
        Assert.Equal((1.1, "twice what class B may be off"), (classed.Allowed, classed.AllowedBecause));
        PointExpectation fan = Of("f2");
        Assert.Equal([0, 1, 0], fan.Steps);
        Assert.Null(fan.Allowed);
        // A temperature by volts is compared as any temperature.
        Assert.Equal(0.8, Of("f1", f => f with { Signal = Signal.Volts, Low = -20, High = 60 }).Allowed);
    }

    /// <summary>A check stands as long as the wiring does: every setting that changes what is read makes another.</summary>
    [Fact]
    public void A_check_counts_only_for_the_wiring_it_was_made_on()
    {
        string was = Of("f1").Wiring;
        Assert.Equal(was, Of("f1", f => f with { Cable = "W7", Correction = 0.4 }).Wiring);
        Func<Fitting, Fitting>[] otherwise = [f => f with { Terminal = "UI2" }, f => f with { Signal = Signal.Ni1000 }, f => f with { LeadOhms = 2 }, f => f with { Low = 5 }, f => f with { High = 50 }, f => f with { CurveId = new("c") }, f => f with { Inverted = true }, f => f with { PerPulse = 2 }];
        Assert.All(otherwise, change => Assert.NotEqual(was, Of("f1", change).Wiring));
    }

    [Theory]
    [InlineData(21.0, 20.5, 0.5, true, "+0.50 K off the reference; ±0.5 K allowed.")]
    [InlineData(20.0, 20.6, 0.5, false, "−0.60 K off the reference; ±0.5 K allowed.")]
    [InlineData(20.0, 20.0, 0.0, true, "0.00 K off the reference; ±0 K allowed.")]
    public void A_reading_is_judged_beside_the_instrument(double reading, double reference, double allowed, bool passes, string sentence)
    {
        CheckVerdict verdict = PointCheck.Judge(House.Find<Point>(Temperature)!, reading, null, reference, allowed);
        Assert.Equal((passes, sentence), (verdict.Passes, verdict.Sentence));
        Assert.Equal(reading - reference, verdict.Difference!.Value, 1e-9);
        // What is corrected reads as the instrument did.
        Assert.Equal(reference, reading + PointCheck.CorrectionFor(0.2, reading, reference) - 0.2, 1e-6);
    }

    [Fact]
    public void Nothing_passes_that_reads_nothing_or_is_in_trouble()
    {
        Point point = House.Find<Point>(Temperature)!, fan = House.Find<Point>(FanCommand)!;
        Assert.False(PointCheck.Judge(point, null, null, 20, 100).Passes);
        Assert.False(PointCheck.Judge(point, double.NaN, null, 20, 100).Passes);
        Assert.Equal("The terminal is in trouble: open circuit.", PointCheck.Judge(point, 20, "open circuit", 20, 100).Sentence);
        Assert.True(PointCheck.Judge(fan, 1, null, 1, 0).Passes);
        Assert.False(PointCheck.Judge(fan, 1, null, 0, 5).Passes);
    }
}
