using System.Collections.Frozen;
using System.Globalization;
using System.Text;
using System.Text.Json.Serialization;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Bus.Datapoints;

/// <summary>
/// A datapoint type of the two-wire bus (ISO/IEC 14543-3, KNX standard 03_07_02): how a value is coded into bits, what its
/// parts are called and measure, and between which limits they are. Datapoints of up to six bits travel in the head of a
/// telegram, longer ones in octets of their own; here both are octets, shorter ones in the low bits of one.
/// </summary>
public sealed record DatapointType(int Main, int Sub, string Name, int Bits, [property: JsonIgnore] IReadOnlyList<DatapointField> Fields)
{
    /// <summary>All there are, by their numbers.</summary>
    public static IReadOnlyList<DatapointType> All { get; } = [.. DatapointTypes.Plain.Concat(DatapointTypes.Joined).OrderBy(t => t.Main).ThenBy(t => t.Sub)];

    private static readonly FrozenDictionary<string, DatapointType> ByKey = All.ToFrozenDictionary(t => t.Key);

    /// <summary>As the standard writes it: 9.001.</summary>
    public string Key => $"{Main}.{Sub:000}";

    /// <summary>How many octets it takes; those of up to eight bits one.</summary>
    public int Octets => (Bits + 7) / 8;

    /// <summary>Whether it is letters and no number.</summary>
    public bool IsText { get; init; }

    /// <summary>Whether its letters go beyond ASCII, to ISO 8859-1.</summary>
    [JsonIgnore]
    public bool IsLatin { get; init; }

    /// <summary>How all its parts together are printed, where that is not one after the other.</summary>
    [JsonIgnore]
    public Func<double[], string>? Says { get; init; }

    /// <summary>Reads what <see cref="Says"/> prints; null for what it cannot read.</summary>
    [JsonIgnore]
    public Func<string, double[]?>? Reads { get; init; }

    /// <summary>The symbol of its unit, empty for none or several.</summary>
    public string Unit => Fields.Count == 1 ? Fields[0].Unit : "";

    /// <summary>Whether it is one number or one state, and not several parts.</summary>
    public bool IsSingle => Fields.Count == 1;

    /// <summary>The type with a key, or null.</summary>
    public static DatapointType? Find(string? key) => key is not null && ByKey.TryGetValue(key, out DatapointType? type) ? type : null;

    /// <summary>
    /// What one number is of such a datapoint: of a single part its value, of several the bits of all of them as one count, so
    /// that logic can pass them on (exact up to 53 bits). Letters are none.
    /// </summary>
    public double ToNumber(ReadOnlySpan<byte> octets)
    {
        if (IsText || octets.Length < Octets) return double.NaN;
        UInt128 bits = Gather(octets);
        return IsSingle ? Fields[0].FromCounts(CountsIn(bits, Fields[0])) : (double)bits;
    }

    /// <summary>Codes the number of such a datapoint; one beyond its limits is brought within them. Answers how many octets were written.</summary>
    public int Write(double number, Span<byte> octets)
    {
        if (IsSingle && Fields[0].Texts is not null) number = Math.Round(number);
        UInt128 bits = IsText ? 0 : IsSingle ? Place(Fields[0].ToCountsWithin(number), Fields[0]) : (UInt128)Math.Clamp(double.IsNaN(number) ? 0 : number, 0, Math.Pow(2, Math.Min(64, Bits)) - 1);
        Scatter(bits, octets);
        return Octets;
    }

    /// <summary>Codes the values of all parts, in their order. Answers null, or why they cannot be; nothing is written then.</summary>
    public string? Encode(ReadOnlySpan<double> values, Span<byte> octets)
    {
        if (values.Length != Fields.Count || IsText) return $"{Key} has {Fields.Count} parts, not {values.Length}.";
        UInt128 bits = 0;
        for (int i = 0; i < values.Length; i++)
        {
            ulong counts = Fields[i].ToCounts(values[i], out string? refusal);
            if (refusal is not null) return refusal;
            bits |= Place(counts, Fields[i]);
        }
        Scatter(bits, octets);
        return null;
    }

    /// <summary>The values of all parts, in their order; not a number where one says that it has none.</summary>
    public double[] Decode(ReadOnlySpan<byte> octets)
    {
        UInt128 bits = Gather(octets);
        double[] values = new double[Fields.Count];
        for (int i = 0; i < values.Length; i++) values[i] = Fields[i].FromCounts(CountsIn(bits, Fields[i]));
        return values;
    }

    /// <summary>A datapoint in words, with its unit.</summary>
    public string Say(ReadOnlySpan<byte> octets)
    {
        if (octets.Length < Octets) return $"{Convert.ToHexString(octets)} (too short for {Key})";
        if (IsText) return Encoding.Latin1.GetString(octets[..Octets]).TrimEnd('\0');
        double[] values = Decode(octets);
        return Says?.Invoke(values) ?? string.Join(", ", Fields.Select((f, i) => Part(f, values[i])));
    }

    /// <summary>A number as <see cref="ToNumber"/> gives it, in words.</summary>
    public string Say(double number)
    {
        Span<byte> octets = stackalloc byte[16];
        if (double.IsNaN(number)) return "no value";
        int length = Write(number, octets);
        return Say(octets[..length]);
    }

    /// <summary>Reads what a person writes, as <see cref="Say(ReadOnlySpan{byte})"/> prints it; units may be left out. Answers null, or a sentence that says what would be right; nothing is written then.</summary>
    public string? Read(string text, Span<byte> octets)
    {
        text = text.Trim();
        if (IsText)
        {
            if (text.Length > Octets) return $"{Key} holds {Octets} letters; ‘{text}’ has {text.Length}.";
            if (text.FirstOrDefault(c => c > (IsLatin ? 255 : 127) || char.IsControl(c)) is not '\0' and var wrong) return $"‘{wrong}’ is no letter of {(IsLatin ? "ISO 8859-1" : "ASCII")}, which {Key} is written in.";
            octets[..Octets].Clear();
            Encoding.Latin1.GetBytes(text, octets);
            return null;
        }
        if (Reads is not null) return Reads(text) is { } read ? Encode(read, octets) : $"‘{text}’ is no {Name.ToLowerInvariant()}. Write it like {Example}.";
        string[] parts = IsSingle ? [text] : text.Split(',', StringSplitOptions.TrimEntries);
        if (parts.Length != Fields.Count) return $"{Key} {Name} has {Fields.Count} parts with commas between: {string.Join(", ", Fields.Select(f => f.Name))}. Write it like {Example}.";
        double[] values = new double[parts.Length];
        for (int i = 0; i < parts.Length; i++)
        {
            if (ReadPart(Fields[i], parts[i]) is not { } value) return $"‘{parts[i]}’ is no {Fields[i].Name}. {Choices(Fields[i])}";
            values[i] = value;
        }
        return Encode(values, octets);
    }

    private string Example
    {
        get
        {
            Span<byte> zero = stackalloc byte[16];
            Scatter(Fields.Aggregate((UInt128)0, (bits, f) => bits | Place(f.ToCountsWithin(Math.Max(f.Low, Math.Min(f.High, 1))), f)), zero);
            return Say(zero[..Octets]);
        }
    }

    private static string Choices(DatapointField field) => field.Texts is { } texts ? $"There are {string.Join(", ", texts.Values.Take(24))}." : FormattableString.Invariant($"Write a number from {field.Low:0.##} to {field.High:0.##}{(field.Unit.Length > 0 ? " " + field.Unit : "")}.");

    private string Part(DatapointField field, double value)
    {
        string said = double.IsNaN(value) ? "no value"
            : field.Texts is { } texts ? texts.GetValueOrDefault((int)value) ?? $"{value:0} (not used)"
            : field.Code == FieldCode.Single ? ((float)value).ToString("R", CultureInfo.InvariantCulture)
            : field.Code == FieldCode.Signed && field.Width == 64 ? ((long)Math.Clamp(value, long.MinValue, long.MaxValue)).ToString(CultureInfo.InvariantCulture)
            : value.ToString(field.Decimals == 0 ? "0" : "0." + new string('#', field.Decimals), CultureInfo.InvariantCulture);
        if (field.Unit.Length > 0 && !double.IsNaN(value)) said += $" {field.Unit}";
        return IsSingle || field.Texts is not null ? said : $"{field.Name} {said}";
    }

    private static double? ReadPart(DatapointField field, string text)
    {
        if (field.Texts is { } texts)
        {
            foreach (var (count, name) in texts)
            {
                if (name.Equals(text, StringComparison.OrdinalIgnoreCase)) return count;
            }
        }
        else if (text.StartsWith(field.Name + " ", StringComparison.OrdinalIgnoreCase)) text = text[(field.Name.Length + 1)..].Trim();
        if (field.Unit.Length > 0 && text.EndsWith(field.Unit, StringComparison.OrdinalIgnoreCase)) text = text[..^field.Unit.Length];
        try
        {
            var scanner = new Scanner(text);
            double number = scanner.FiniteNumber();
            scanner.End();
            return number;
        }
        catch (SyntaxException)
        {
            return null;
        }
    }

    private ulong CountsIn(UInt128 bits, DatapointField field) => (ulong)((bits >> (Bits - field.From - field.Width)) & (((UInt128)1 << field.Width) - 1));

    private UInt128 Place(ulong counts, DatapointField field) => ((UInt128)counts & (((UInt128)1 << field.Width) - 1)) << (Bits - field.From - field.Width);

    private UInt128 Gather(ReadOnlySpan<byte> octets)
    {
        UInt128 bits = 0;
        for (int i = 0; i < Octets; i++) bits = (bits << 8) | octets[i];
        return Bits < 128 ? bits & (((UInt128)1 << Bits) - 1) : bits;
    }

    private void Scatter(UInt128 bits, Span<byte> octets)
    {
        for (int i = Octets - 1; i >= 0; i--)
        {
            octets[i] = (byte)(bits & 0xFF);
            bits >>= 8;
        }
    }

    /// <inheritdoc/>
    public bool Equals(DatapointType? other) => ReferenceEquals(this, other);

    /// <inheritdoc/>
    public override int GetHashCode() => (Main * 1000) + Sub;
}
