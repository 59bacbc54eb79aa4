namespace LoftyWren.Core.Bus.Lines;

/// <summary>
/// A coupler between a line and the one above it. It takes a telegram for the other side when that is where it leads: one to
/// a device by its address, one to a group when the group is in its table, one to everybody always; each pass takes one off
/// its hops. As it is delivered, without a table or an address, it lets everything through. What it cannot hold it is too
/// busy for.
/// </summary>
public sealed class LineCoupler
{
    /// <summary>How many telegrams wait on each side at most.</summary>
    public const int MostWaiting = 32;

    private readonly Func<IndividualAddress> _address;
    private readonly Func<IReadOnlySet<GroupNumber>?> _table;

    /// <summary>Couples two lines.</summary>
    /// <param name="key">By which it is known over a restart.</param>
    /// <param name="lower">The line below.</param>
    /// <param name="upper">The line above.</param>
    /// <param name="isAlive">Whether it has its supply.</param>
    /// <param name="address">Its address; device 0 of the line below.</param>
    /// <param name="table">The groups that it lets through; null for all.</param>
    public LineCoupler(string key, TwoWireLine lower, TwoWireLine upper, Func<bool> isAlive, Func<IndividualAddress> address, Func<IReadOnlySet<GroupNumber>?> table)
    {
        (_address, _table) = (address, table);
        Below = new Side(key + "/below", this, lower, isAlive, isBelow: true);
        Above = new Side(key + "/above", this, upper, isAlive, isBelow: false);
        (Below.Other, Above.Other) = (Above, Below);
        lower.Attach(Below);
        upper.Attach(Above);
    }

    internal Side Below { get; }

    internal Side Above { get; }

    /// <summary>How many telegrams it let through, and how many nobody took on the other side.</summary>
    public long Passed { get; private set; }

    /// <inheritdoc cref="Passed"/>
    public long Lost { get; private set; }

    /// <summary>Takes it away.</summary>
    public void Detach()
    {
        Below.Line.Detach(Below);
        Above.Line.Detach(Above);
    }

    /// <summary>Whether it leads a telegram from one side to the other.</summary>
    private bool Leads(BusFrame frame, bool isFromBelow)
    {
        if (frame.Hops == 0) return false;
        if (frame.IsToGroup) return frame.IsBroadcast || (_table()?.Contains(frame.Group) ?? true);
        IndividualAddress own = _address(), to = frame.Device;
        if (own == IndividualAddress.Factory) return true;
        bool isBelow = own.Line == 0 ? to.Area == own.Area : to.IsOnLineOf(own);
        return isFromBelow ? !isBelow : isBelow;
    }

    internal sealed class Side(string key, LineCoupler coupler, TwoWireLine line, Func<bool> isAlive, bool isBelow) : ILineStation
    {
        public Side Other { get; set; } = null!;

        public TwoWireLine Line => line;

        public string Key => key;

        public bool IsAlive => isAlive();

        public LineAnswer Answer(BusFrame frame) => !coupler.Leads(frame, isBelow) ? LineAnswer.None : Other.Line.WaitingOf(Other) >= MostWaiting ? LineAnswer.Busy : LineAnswer.Taken;

        public void Hear(long microseconds, BusFrame frame)
        {
            if (!coupler.Leads(frame, isBelow)) return;
            coupler.Passed++;
            Other.Line.Want(Other, frame with { IsRepeated = false, Hops = frame.Hops == BusFrame.AnyHops ? frame.Hops : frame.Hops - 1 }, microseconds);
        }

        public void Sent(long microseconds, BusFrame frame, bool isTaken)
        {
            if (!isTaken) coupler.Lost++;
        }
    }
}
