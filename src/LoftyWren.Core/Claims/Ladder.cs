using LoftyWren.Core.Status;

namespace LoftyWren.Core.Claims;

/// <summary>
/// The 16 priorities of one commanded output (ISO 16484-5, 19.2): the strongest claim that is not released wins,
/// the lowest number being the strongest; when all are released the relinquish default holds.
/// </summary>
public sealed class Ladder(double fallback)
{
    private readonly double[] _values = NewRungs();
    private readonly StatusFlags[] _status = new StatusFlags[16];

    /// <summary>The relinquish default; not a number when the point has none.</summary>
    public double Fallback { get; } = fallback;

    /// <summary>The winning priority 1–16, or 0 when the fallback holds.</summary>
    public int Winner { get; private set; }

    /// <summary>The value that holds now.</summary>
    public double Value { get; private set; } = fallback;

    /// <summary>The marks that came with the winning claim; released when nothing speaks and there is no fallback.</summary>
    public StatusFlags Status { get; private set; } = double.IsNaN(fallback) ? StatusFlags.Released : StatusFlags.None;

    /// <summary>Says a value at a priority. A value that is not a number, or in fault, is a release: nothing missing becomes a command.</summary>
    public void Claim(int priority, double value, StatusFlags status)
    {
        bool speaks = !double.IsNaN(value) && (status & (StatusFlags.Released | StatusFlags.Fault)) == 0;
        if (!speaks) (value, status) = (double.NaN, status | StatusFlags.Released);
        int rung = priority - 1;
        if (_status[rung] == status && _values[rung].Equals(value)) return;
        (_values[rung], _status[rung]) = (value, status);
        IsStale = true;
    }

    /// <summary>Whether a claim has changed since the winner was last found.</summary>
    public bool IsStale { get; private set; } = true;

    /// <summary>Says nothing at a priority.</summary>
    public void Release(int priority) => Claim(priority, double.NaN, StatusFlags.Released);

    /// <summary>What a priority says; released when it says nothing.</summary>
    public (double Value, StatusFlags Status) Rung(int priority) => double.IsNaN(_values[priority - 1])
        ? (double.NaN, _status[priority - 1] | StatusFlags.Released)
        : (_values[priority - 1], _status[priority - 1]);

    /// <summary>Finds the winner anew.</summary>
    public void Resolve()
    {
        IsStale = false;
        Winner = 0;
        for (int i = 0; i < 16; i++)
        {
            if (double.IsNaN(_values[i])) continue;
            Winner = i + 1;
            break;
        }
        Value = Winner > 0 ? _values[Winner - 1] : Fallback;
        Status = Winner > 0 ? _status[Winner - 1] & (StatusFlags.Stale | StatusFlags.Overridden) : double.IsNaN(Fallback) ? StatusFlags.Released : StatusFlags.None;
        if (Winner == Sequences.Sequence.ManualOperator) Status |= StatusFlags.Overridden;
    }

    /// <summary>What would hold if the given priority let go: the next priority that speaks, or 0 for the fallback, and its value.</summary>
    public (int Priority, double Value) WithoutRung(int priority)
    {
        for (int i = 0; i < 16; i++)
        {
            if (i != priority - 1 && !double.IsNaN(_values[i])) return (i + 1, _values[i]);
        }
        return (0, Fallback);
    }

    private static double[] NewRungs()
    {
        double[] rungs = new double[16];
        Array.Fill(rungs, double.NaN);
        return rungs;
    }
}
