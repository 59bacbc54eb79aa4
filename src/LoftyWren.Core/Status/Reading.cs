namespace LoftyWren.Core.Status;

/// <summary>What is to be known of a value besides the value. The first four are the status flags of ISO 16484-5, 12.</summary>
[Flags]
public enum StatusFlags : byte
{
    /// <summary>Well.</summary>
    None = 0,
    /// <summary>An alarm on it is off-normal.</summary>
    InAlarm = 1,
    /// <summary>It cannot be relied on: open circuit, short circuit, no answer, a sum without a result.</summary>
    Fault = 2,
    /// <summary>Somebody set it by hand.</summary>
    Overridden = 4,
    /// <summary>Taken out of service.</summary>
    OutOfService = 8,
    /// <summary>The last value known; nothing has been heard since.</summary>
    Stale = 16,
    /// <summary>There is no value: it says nothing (the standard's NULL).</summary>
    Released = 32,
    /// <summary>Not a value but a mark in a trend log: nothing was recorded from here to the next sample (the log-interrupted of ISO 16484-5, 12.25).</summary>
    Interrupted = 64,
}

/// <summary>A value with its status and the time it has had it, in milliseconds of site time since 1970 UTC.</summary>
public readonly record struct Reading(double Value, StatusFlags Status, long AtMilliseconds)
{
    /// <summary>A reading that says nothing.</summary>
    public static Reading Released(long at) => new(double.NaN, StatusFlags.Released, at);

    /// <summary>Whether there is a value that may be calculated with: neither released nor faulty.</summary>
    public bool IsUsable => (Status & (StatusFlags.Released | StatusFlags.Fault)) == 0;

    /// <summary>Whether it says nothing.</summary>
    public bool IsReleased => (Status & StatusFlags.Released) != 0;
}
