using System.Runtime.CompilerServices;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Sequences;

/// <summary>What a pin carries at one moment: a value in the unit of its line (true is 1) and its status.</summary>
public readonly record struct PinValue(double Value, StatusFlags Status)
{
    /// <summary>Says nothing.</summary>
    public static PinValue Released => new(double.NaN, StatusFlags.Released);

    /// <summary>Cannot be relied on.</summary>
    public static PinValue Fault => new(double.NaN, StatusFlags.Fault);

    /// <summary>Whether it may be calculated with: neither released nor in fault.</summary>
    public bool IsUsable => (Status & (StatusFlags.Fault | StatusFlags.Released)) == 0;

    /// <summary>Whether it reads as true; only to be asked of a usable one.</summary>
    public bool IsTrue => Value > 0.5;

    /// <summary>Whether it is usable and true.</summary>
    public bool IsUsableTrue => IsUsable && IsTrue;

    /// <summary>The same without the mark of an alarm, which is the point's and not the value's.</summary>
    [MethodImpl(MethodImplOptions.AggressiveInlining)]
    public PinValue Unalarmed() => new(Value, Status & ~StatusFlags.InAlarm);
}
