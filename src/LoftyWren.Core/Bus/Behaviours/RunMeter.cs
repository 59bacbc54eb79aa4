using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>How long something was on, how often it came on and what it used.</summary>
public struct RunMeter
{
    /// <summary>Since when it is on, ms; <see cref="Behaviour.Never"/> while it is not.</summary>
    public long Since;

    /// <summary>How long it was on before, ms.</summary>
    public long Before;

    /// <summary>How often it came on.</summary>
    public long Cycles;

    /// <summary>What share of its full power it has had since then, 0 to 1.</summary>
    public double Share;

    /// <summary>What it used before, as ms at full power.</summary>
    public double FullBefore;

    /// <summary>A meter of something that is off.</summary>
    public static RunMeter Off => new() { Since = Behaviour.Never };

    /// <summary>It is on, at a share of its full power, or off from a moment on.</summary>
    public void Turn(long now, bool on, double share = 1)
    {
        if (Since != Behaviour.Never)
        {
            Before += now - Since;
            FullBefore += (now - Since) * Share;
        }
        else if (on) Cycles++;
        (Since, Share) = on ? (now, share) : (Behaviour.Never, 0);
    }

    /// <summary>How long it has been on, h.</summary>
    public readonly double Hours(long now) => (Before + (Since == Behaviour.Never ? 0 : now - Since)) / 3_600_000.0;

    /// <summary>What it has used at so many W of full power, Wh.</summary>
    public readonly double WattHours(long now, double watts) => watts * (FullBefore + (Since == Behaviour.Never ? 0 : (now - Since) * Share)) / 3_600_000.0;

    /// <summary>Begins anew; what is on stays on.</summary>
    public void Reset(long now) => (Since, Before, Cycles, FullBefore) = (Since == Behaviour.Never ? Behaviour.Never : now, 0, 0, 0);
}

/// <summary>A behaviour that counts how long something was on, how often it came on, and what it used.</summary>
public interface IMetered
{
    /// <summary>What it has counted.</summary>
    RunMeter Meter { get; }

    /// <summary>The full power of what hangs on it, W; not a number where nobody has said.</summary>
    double Watts { get; }
}

/// <summary>The settings of a meter, the same wherever a channel has one.</summary>
internal static class MeterSettings
{
    public const string Key = "meter";

    public static ParameterDescription Meter() => Parameters.YesNo(Key, "Counts hours, cycles and energy", "Sends its operating hours, how often it came on and the energy that it used.");

    public static ParameterDescription Watts() => Parameters.Numbered("watts", "Load", "The full power of what hangs on it; energy is calculated by it.", 60, 0, 20_000, "W").If("meter");

    public static ParameterDescription Every() => Parameters.Time("reportEvery", "Reports every", "How often hours, cycles and energy are sent.", 3600, 60, 604_800).If("meter");
}

/// <summary>Up to 20 scenes: which number each answers to, and the value it brings, which may be learned.</summary>
internal readonly struct SceneTable
{
    /// <summary>How many scenes a channel can answer to, and how many it offers where its description does not say.</summary>
    public const int Most = 20, Usual = 16;

    private readonly int[] _numbers;

    public SceneTable(SettingValues settings, ParameterDescription uses, ParameterDescription number, ParameterDescription value, Func<ParameterDescription, int, double> read)
    {
        _numbers = new int[Most];
        Begins = new double[Most];
        for (int i = 1; i <= Most; i++)
        {
            _numbers[i - 1] = settings.Yes(uses) ? (int)settings.Number(number, i) : 0;
            Begins[i - 1] = read(value, i);
        }
    }

    /// <summary>The values as they are set, before anything is learned.</summary>
    public double[] Begins { get; }

    /// <summary>The values in force: those that were learned, where there are any of this table's length.</summary>
    public double[] Known(double[]? learned) => learned?.Length == Begins.Length ? learned : [.. (learned ?? []).Take(Begins.Length), .. Begins.Skip(learned?.Length ?? 0)];

    /// <summary>The place of the scene that a telegram of 18.001 is about (its number on the bus from 0, for people from 1), or −1; and whether it is to be stored.</summary>
    public int Find(double told, out bool stores)
    {
        int raw = (int)told;
        stores = (raw & 0x80) != 0;
        int number = (raw & 0x3F) + 1;
        for (int i = 0; i < Most; i++)
        {
            if (_numbers[i] == number) return i;
        }
        return -1;
    }

    /// <summary>The settings of one value for each scene, so that the one that decides can be named.</summary>
    public static ParameterDescription[] Each(ParameterDescription value) => [.. Enumerable.Range(1, Most).Select(i => value with { Key = value.Key.Replace("{i}", $"{i}", StringComparison.Ordinal), Repeat = null })];

    public static ParameterDescription Uses() => Parameters.YesNo("scenes", "Scenes", "Answers to scenes: a number on the bus brings a value of its own.");

    public static ParameterDescription Learns() => Parameters.YesNo("scenesLearn", "Scenes can be stored", "A long press at a button may store the present value as that of the scene.", true).If("scenes");

    public static ParameterDescription Number() => Parameters.Numbered("scene{i}", "Scene {i} answers to", "The number of the scene on the bus, 1 to 64; 0 for none.", 0, 0, 64, step: 1).If("scenes").Times(Usual);
}
