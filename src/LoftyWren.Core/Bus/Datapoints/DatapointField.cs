namespace LoftyWren.Core.Bus.Datapoints;

/// <summary>How a part of a datapoint is coded.</summary>
public enum FieldCode
{
    /// <summary>A count from 0.</summary>
    Unsigned,
    /// <summary>A count in two's complement.</summary>
    Signed,
    /// <summary>The two-octet float of main type 9: 0.01 · M · 2^E, M in two's complement over sign and 11 bits, E in 4; 7FFF hex is “no value”.</summary>
    Half,
    /// <summary>IEEE 754 single precision.</summary>
    Single,
}

/// <summary>One part of a datapoint: where it stands in it, how it is coded, and what its counts mean.</summary>
/// <param name="Name">What it is called, in small letters.</param>
/// <param name="From">Its first bit, from the most significant of the datapoint.</param>
/// <param name="Width">How many bits.</param>
/// <param name="Code">How it is coded.</param>
public sealed record DatapointField(string Name, int From, int Width, FieldCode Code = FieldCode.Unsigned)
{
    private const ushort NoHalf = 0x7FFF;

    /// <summary>What one count is worth, in <see cref="Unit"/>.</summary>
    public double Step { get; init; } = 1;

    /// <summary>The least value, in <see cref="Unit"/>.</summary>
    public double Low { get; init; }

    /// <summary>The greatest value, in <see cref="Unit"/>.</summary>
    public double High { get; init; }

    /// <summary>The symbol of its unit, empty for a bare number.</summary>
    public string Unit { get; init; } = "";

    /// <summary>What its counts are called, where they are no numbers; a count without a text is not used.</summary>
    public IReadOnlyDictionary<int, string>? Texts { get; init; }

    /// <summary>Digits after the point with which it is printed.</summary>
    public int Decimals { get; init; }

    /// <summary>The counts that a value is; the sentence says why it is none, and is null else. A value between two counts goes to the nearer.</summary>
    public ulong ToCounts(double value, out string? refusal)
    {
        refusal = null;
        if (Texts is not null)
        {
            if (value == Math.Floor(value) && value >= 0 && value < int.MaxValue && Texts.ContainsKey((int)value)) return (ulong)value;
            refusal = $"{value:0.##} is no {Name}: there are {string.Join(", ", Texts.Select(t => $"{t.Key} {t.Value}").Take(12))}.";
            return 0;
        }
        if (!(value >= Low - (Step / 2) && value <= High + (Step / 2)) || value < Low - Tolerance || value > High + Tolerance)
        {
            refusal = FormattableString.Invariant($"{Name} {value:0.##} is not between {Low:0.##} and {High:0.##}{(Unit.Length > 0 ? " " + Unit : "")}.");
            return 0;
        }
        return Counts(value);
    }

    /// <summary>The counts of the value nearest to this one that it can have.</summary>
    public ulong ToCountsWithin(double value) => Counts(double.IsNaN(value) ? Low : Math.Clamp(value, Low, High));

    /// <summary>What counts mean; not a number where they mean no value.</summary>
    public double FromCounts(ulong counts) => Code switch
    {
        FieldCode.Half => counts == NoHalf ? double.NaN : FromHalf((ushort)counts),
        FieldCode.Single => BitConverter.UInt32BitsToSingle((uint)counts),
        FieldCode.Signed => Signed(counts) * Step,
        _ => counts * Step,
    };

    // A value given with all its digits may miss a limit by rounding alone.
    private double Tolerance => Code is FieldCode.Single ? Math.Abs(High) * 1e-7 : Math.Max(Step * 1e-6, Math.Abs(High) * 1e-12);

    private ulong Counts(double value) => Code switch
    {
        FieldCode.Half => ToHalf(value),
        FieldCode.Single => BitConverter.SingleToUInt32Bits((float)value),
        FieldCode.Signed when Width == 64 => value >= long.MaxValue ? long.MaxValue : unchecked((ulong)(long)Math.Round(value)),
        FieldCode.Signed => unchecked((ulong)(long)Nearest(value / Step)) & Mask,
        _ => (ulong)Nearest(value / Step),
    };

    // What lies in the middle goes away from 0, as 50 % is 80 hex; the quotient may miss the middle by its last digit.
    private static double Nearest(double counts) => Math.Round(Math.Round(counts, 6), MidpointRounding.AwayFromZero);

    private ulong Mask => Width == 64 ? ulong.MaxValue : (1UL << Width) - 1;

    private double Signed(ulong counts)
    {
        if (Width == 64) return unchecked((long)counts);
        return (counts & (1UL << (Width - 1))) != 0 ? (double)counts - (1UL << Width) : counts;
    }

    private static double FromHalf(ushort raw)
    {
        int mantissa = (raw & 0x7FF) | ((raw & 0x8000) != 0 ? -2048 : 0);
        return 0.01 * mantissa * (1 << ((raw >> 11) & 0xF));
    }

    private static ushort ToHalf(double value)
    {
        double hundredths = value * 100;
        for (int exponent = 0; ; exponent++)
        {
            double mantissa = Math.Round(hundredths / (1 << exponent), MidpointRounding.AwayFromZero);
            if (mantissa is >= -2048 and <= 2047 || exponent == 15)
            {
                // The same number with the least exponent: each has one form.
                if (mantissa == -1024 && exponent > 0) (mantissa, exponent) = (-2048, exponent - 1);
                ushort raw = (ushort)((exponent << 11) | ((int)Math.Clamp(mantissa, -2048, 2047) & 0x7FF) | (mantissa < 0 ? 0x8000 : 0));
                // The greatest of all stands for no value; the next below is the greatest that is one.
                return raw == NoHalf ? (ushort)(NoHalf - 1) : raw;
            }
        }
    }
}
