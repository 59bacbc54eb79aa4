using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Points;
using LoftyWren.Core.Units;

namespace LoftyWren.Core.Bus.Groups;

/// <summary>
/// How what is under a group address becomes the value of a point and back. Numbers: <c>point = heard × Factor + Offset</c>, in
/// the point's unit. States: a state of a multistate point, counted from 1, stands for a count of the datapoint.
/// </summary>
public sealed class Turning
{
    private readonly double _factor;
    private readonly double _offset;
    private readonly double[]? _states;

    private Turning(double factor, double offset) => (_factor, _offset) = (factor, offset);

    private Turning(double[] states) => _states = states;

    /// <summary>
    /// What turns one into the other, or null where they are not of one sort or quantity. The states of a multistate point stand
    /// for the values of the datapoint that have the same texts, whatever their order; where not all are named alike, as many
    /// states as there are values stand for them in their order; of a count they stand for 0, 1, 2, … (ISO 16484-5 counts states from 1).
    /// </summary>
    public static Turning? Of(DatapointType type, Point point)
    {
        if (!type.IsSingle || type.IsText) return null;
        DatapointField field = type.Fields[0];
        bool isSwitch = type.Bits == 1;
        switch (point.Kind)
        {
            case PointKind.Binary: return isSwitch ? new(1, 0) : null;
            case PointKind.Multistate: return isSwitch ? null : States(field, point.StateTexts) is { } states ? new(states) : null;
        }
        if (isSwitch) return null;
        if (Unit.Find(type.Unit) is not { } from || Unit.Find(point.Unit) is not { } to) return new(1, 0);
        return from.To(to) is var (factor, offset) ? new(factor, offset) : null;
    }

    private static double[]? States(DatapointField field, IReadOnlyList<string> texts)
    {
        if (field.Texts is { } named)
        {
            var counts = named.ToDictionary(n => n.Value, n => n.Key, StringComparer.OrdinalIgnoreCase);
            if (texts.All(counts.ContainsKey)) return [.. texts.Select(t => (double)counts[t])];
            return texts.Count == named.Count ? [.. named.Keys.Order().Select(k => (double)k)] : null;
        }
        bool counted = field is { Code: FieldCode.Unsigned, Step: 1, Low: 0, Unit: "" or "pulses" };
        return counted && texts.Count - 1 <= field.High ? [.. texts.Select((_, i) => (double)i)] : null;
    }

    /// <summary>The value of the point for what was heard; not a number where no state stands for it.</summary>
    public double ToPoint(double heard)
    {
        if (_states is null) return (heard * _factor) + _offset;
        int at = Array.IndexOf(_states, heard);
        return at < 0 ? double.NaN : at + 1;
    }

    /// <summary>What is said for a value of the point; not a number for a state that it has not.</summary>
    public double FromPoint(double value)
    {
        if (_states is null) return (value - _offset) / _factor;
        return value >= 1 && value <= _states.Length ? _states[(int)value - 1] : double.NaN;
    }
}
