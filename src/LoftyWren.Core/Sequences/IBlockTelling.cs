using LoftyWren.Core.Explanations;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Sequences;

/// <summary>What a kind of block asks of a running one, to tell why it says what it says.</summary>
public interface IBlockTelling
{
    /// <summary>The block.</summary>
    Block Block { get; }

    /// <summary>The sequence and the points that the telling rests on.</summary>
    IReadOnlyList<RecordId> Records { get; }

    /// <summary>The value that reaches an input, in the unit the block works in, with that unit and what to call where it comes from; null where nothing is connected.</summary>
    (Reading Reading, string? Unit, string Name)? Input(string pin);

    /// <summary>Why an input says what it says; nothing where that is not a point.</summary>
    IReadOnlyList<Because> WhyOf(string pin);

    /// <summary>Why an input says what it says, whatever it is connected to; nothing where that is nothing.</summary>
    IReadOnlyList<Because> Why(string pin);

    /// <summary>A memory cell of the block, counted from 0.</summary>
    double Memory(int cell);

    /// <summary>A moment that the block remembers (s of running time) as a time of day.</summary>
    string Time(double seconds);

    /// <summary>A number setting.</summary>
    double Setting(string setting);

    /// <summary>A number setting that is a length of time, in words.</summary>
    string Length(string setting);

    /// <summary>A length of time (s), in words.</summary>
    string Span(double seconds);

    /// <summary>A number with a unit, in words.</summary>
    string Say(double value, string? unit);
}
