using System.Globalization;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Commissioning;

/// <summary>What is expected at one terminal when it is checked.</summary>
/// <param name="Wiring">How it is wired, in a few letters: a check counts while that stays.</param>
/// <param name="Expects">In words: the signal and what its ends stand for.</param>
/// <param name="Allowed">How far the reading may be off a reference instrument, a difference in the point's unit; null where states are compared.</param>
/// <param name="AllowedBecause">Where that comes from.</param>
/// <param name="Steps">The values that an output is driven to, in the unit of its point; none for inputs.</param>
public sealed record PointExpectation(string Wiring, string Expects, double? Allowed, string? AllowedBecause, IReadOnlyList<double> Steps);

/// <summary>How a check ended: the reading with the difference that counts, and whether it passes.</summary>
public sealed record CheckVerdict(double? Difference, bool Passes, string Sentence);

/// <summary>Proving one point: what is expected at its terminal, and whether what is found there will do.</summary>
public static class PointCheck
{
    // Where no class is known: what a technician's thermometer beside a sensor of class B leaves in doubt, and 2 % of a range.
    private const double UsualKelvin = 0.8, UsualShare = 0.02;

    /// <summary>What is expected of a point on its terminal.</summary>
    public static PointExpectation Of(Project project, Fitting fitting, Point point)
    {
        SignalSettings settings = fitting.Settings(project.Find);
        string told = fitting.Signal.Told(settings, v => string.Create(CultureInfo.InvariantCulture, $"{v:0.###} {point.Unit}").TrimEnd()) is { } how ? $"{fitting.Signal.Name} {how}" : $"{fitting.Signal.Name}{(fitting.Inverted ? ", turned round" : "")}";
        string wiring = string.Create(CultureInfo.InvariantCulture, $"{fitting.ControllerId}|{fitting.Terminal}|{fitting.Signal.Key}|{fitting.Low}|{fitting.High}|{fitting.LeadOhms}|{fitting.PerPulse}|{fitting.Inverted}|{fitting.CurveId}");
        bool isInput = point.Role == PointRole.Sensor;
        if (point.Kind != PointKind.Analog) return new PointExpectation(wiring, told, null, null, isInput ? [] : [.. Enumerable.Range(0, Math.Max(2, point.StateTexts.Count)).Select(i => (double)i), 0]);
        var (allowed, because) = AllowedOf(fitting, point, settings);
        double low = fitting.Low, high = fitting.High;
        return new PointExpectation(wiring, told, allowed, because, isInput ? [] : [low, low + ((high - low) / 2), high, low]);
    }

    private static (double, string) AllowedOf(Fitting fitting, Point point, SignalSettings settings)
    {
        // The class of the sensor at the middle of what the point may read, and as much again for the instrument beside it.
        double middle = ((point.Low ?? fitting.Low) + (point.High ?? fitting.High)) / 2;
        if (fitting.Signal.ToleranceAt(settings, fitting.ToleranceClass, middle) is { } off) return (Math.Round(2 * off, 2), $"twice what class {fitting.ToleranceClass} may be off");
        if (fitting.Signal.IsThermometer || Unit.Find(point.Unit)?.Quantity == Quantity.Temperature) return (Math.Round(UsualKelvin * (fitting.Signal.ScaleOf(point.Unit)?.Factor ?? 1), 2), "usual where no class is known");
        return (Math.Round(UsualShare * Math.Abs(fitting.High - fitting.Low), 3), "2 % of the range");
    }

    /// <summary>Whether a reading will do beside what a reference instrument shows, or what state was made.</summary>
    public static CheckVerdict Judge(Point point, double? reading, string? trouble, double reference, double allowed)
    {
        if (trouble is not null) return new CheckVerdict(null, false, $"The terminal is in trouble: {trouble}.");
        if (reading is not { } value || double.IsNaN(value)) return new CheckVerdict(null, false, "There is no reading.");
        double difference = value - reference;
        if (point.Kind != PointKind.Analog) return difference == 0 ? new CheckVerdict(0, true, "It shows the state that was made.") : new CheckVerdict(difference, false, "It shows another state than was made.");
        // A thousandth of slack, so that what people round is not failed for it.
        bool passes = Math.Abs(difference) <= allowed + 1e-3;
        string unit = Unit.Find(point.Unit)?.Difference.Symbol ?? point.Unit ?? "";
        return new CheckVerdict(difference, passes, string.Create(CultureInfo.InvariantCulture, $"{difference:+0.00;−0.00;0.00} {unit} off the reference; ±{allowed:0.##} {unit} allowed."));
    }

    /// <summary>The correction that brings the reading to the reference, with what is corrected already; a difference in the point's unit.</summary>
    public static double CorrectionFor(double present, double reading, double reference) => Math.Round(present + reference - reading, 3);
}
