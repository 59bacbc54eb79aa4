namespace LoftyWren.Core.Proofs;

/// <summary>Settings of a PID block: gain in % per unit of what is measured, integral and derivative time in s.</summary>
public sealed record LoopSettings(double Gain, double Ti, double Td);

/// <summary>Settings for a loop, and what they are for.</summary>
public sealed record LoopProposal(string For, LoopSettings Settings);

/// <summary>A loop swinging under a relay: half its swing in units of what is measured, and its period in s.</summary>
public readonly record struct Swing(double Amplitude, double Period);

/// <summary>A loop as one lag behind a dead time: its gain (units of what is measured per %), lag and dead time in s.</summary>
public readonly record struct LagAndDeadTime(double Gain, double Lag, double DeadTime)
{
    /// <summary>What a step of the output by 1 % has made of the measurement after so many s.</summary>
    public double After(double seconds) => seconds <= DeadTime ? 0 : Gain * (1 - Math.Exp(-(seconds - DeadTime) / Lag));
}

/// <summary>
/// From what a loop does in a trial to the settings of its PID, by rules that any book on process control has: the ultimate
/// cycle by relay feedback, and one lag behind a dead time by two points of a step response with internal-model settings.
/// </summary>
public static class LoopRules
{
    /// <summary>The gain at which the loop would just swing by itself, % per unit: of a relay of ± <paramref name="relay"/> % with a differential of ± <paramref name="differential"/>, by its describing function 4d ÷ (π √(a² − ε²)).</summary>
    public static double UltimateGain(double relay, Swing swing, double differential) =>
        4 * relay / (Math.PI * Math.Sqrt(Math.Max((swing.Amplitude * swing.Amplitude) - (differential * differential), 1e-12)));

    /// <summary>Settings by the ultimate gain and period: calm (Ku ÷ 3.2, 2.2 Tu), brisk (0.45 Ku, Tu ÷ 1.2), and brisk with a derivative (0.6 Ku, Tu ÷ 2, Tu ÷ 8).</summary>
    public static IReadOnlyList<LoopProposal> Of(double ultimateGain, double period) =>
    [
        new("calm: little overshoot", new(ultimateGain / 3.2, 2.2 * period, 0)),
        new("brisk: each swing a quarter of the one before", new(0.45 * ultimateGain, period / 1.2, 0)),
        new("brisk, with a derivative: for slow loops without noise", new(0.6 * ultimateGain, period / 2, period / 8)),
    ];

    /// <summary>
    /// One lag behind a dead time, by where a step response passes 28.3 % and 63.2 % of its whole: lag = 1.5 (t₆₃ − t₂₈),
    /// dead time = t₆₃ − lag. Null where it never leaves its beginning. Values are at even steps of <paramref name="stepSeconds"/>.
    /// </summary>
    public static LagAndDeadTime? Fit(IReadOnlyList<double> response, double stepSeconds, double stepOfOutput)
    {
        double begin = response[0], whole = response[^1] - begin;
        if (Math.Abs(whole) < 1e-9) return null;
        double passes(double share)
        {
            for (int i = 1; i < response.Count; i++)
            {
                double before = (response[i - 1] - begin) / whole, now = (response[i] - begin) / whole;
                if (now >= share) return (i - 1 + ((share - before) / Math.Max(now - before, 1e-12))) * stepSeconds;
            }
            return response.Count * stepSeconds;
        }
        double t28 = passes(0.283), t63 = passes(0.632), lag = Math.Max(1.5 * (t63 - t28), stepSeconds);
        return new LagAndDeadTime(whole / stepOfOutput, lag, Math.Max(0, t63 - lag));
    }

    /// <summary>Settings for one lag behind a dead time with a closed loop as quick as its dead time (brisk) or three times slower (calm): gain = T ÷ (|K| (τ + L)), ti = min(T, 4 (τ + L)). A dead time shorter than a scan, or than a twentieth of the lag, counts as that: so quick no model of one lag holds, and noise would come through.</summary>
    public static IReadOnlyList<LoopProposal> Of(LagAndDeadTime loop, double scanSeconds)
    {
        double dead = Math.Max(loop.DeadTime, Math.Max(scanSeconds, loop.Lag / 20));
        LoopProposal to(string what, double tau) => new(what, new(loop.Lag / (Math.Abs(loop.Gain) * (tau + dead)), Math.Min(loop.Lag, 4 * (tau + dead)), 0));
        return [to("calm: no overshoot", Math.Max(3 * dead, loop.Lag / 3)), to("brisk: as quick as its dead time lets it", dead)];
    }
}
