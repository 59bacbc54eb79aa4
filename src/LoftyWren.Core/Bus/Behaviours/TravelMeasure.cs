namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>A run from one end to the other as somebody timed it, s.</summary>
public sealed record TimedRun(bool IsDown, double Seconds);

/// <summary>
/// What timed runs come to: the time down and up (the means, s), by how much the runs of one direction differ at most (s), up
/// over down, and whether that is enough to trust: three of each that differ by no more than 3 % or half a second.
/// </summary>
public sealed record TravelMeasure(double? Down, double? Up, double Spread, double? Ratio, bool IsTrusted, string Says)
{
    private const int Enough = 3;
    private const double MostShare = 0.03, MostSeconds = 0.5;

    /// <summary>Works it out.</summary>
    public static TravelMeasure Of(IReadOnlyList<TimedRun> runs)
    {
        double[] down = [.. runs.Where(r => r.IsDown && r.Seconds > 0).Select(r => r.Seconds)], up = [.. runs.Where(r => !r.IsDown && r.Seconds > 0).Select(r => r.Seconds)];
        double spread = Math.Max(Range(down), Range(up));
        double? meanDown = down.Length > 0 ? down.Average() : null, meanUp = up.Length > 0 ? up.Average() : null;
        double longest = Math.Max(meanDown ?? 0, meanUp ?? 0);
        bool isEven = spread <= Math.Max(MostSeconds, longest * MostShare), isEnough = down.Length >= Enough && up.Length >= Enough;
        int missing = Math.Max(0, Enough - down.Length) + Math.Max(0, Enough - up.Length);
        string says = !isEnough ? $"{missing} more {(missing == 1 ? "run" : "runs")}: three down and three up say how even the drive is."
            : !isEven ? "The runs differ more than a hand does. See whether the blind rubs, or time it again."
            : "The runs agree.";
        return new TravelMeasure(Round(meanDown), Round(meanUp), Math.Round(spread, 2), meanDown > 0 && meanUp is { } u ? Math.Round(u / meanDown.Value, 3) : null, isEnough && isEven, says);
    }

    private static double Range(double[] values) => values.Length < 2 ? 0 : values.Max() - values.Min();

    // As exact as somebody presses.
    private static double? Round(double? value) => value is { } v ? Math.Round(v, 1) : null;
}
