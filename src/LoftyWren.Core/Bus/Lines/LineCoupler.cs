using LoftyWren.Core.Bus.Descriptions;

namespace LoftyWren.Core.Bus.Lines;

/// <summary>What a coupler does with telegrams.</summary>
/// <param name="Table">The groups that it lets through; null for all of them.</param>
/// <param name="PassesBroadcasts">Whether telegrams to everybody pass.</param>
/// <param name="Repetitions">How often it sends again what nobody has acknowledged, 0 to 3.</param>
public sealed record CouplerSettings(IReadOnlySet<GroupNumber>? Table, bool PassesBroadcasts, int Repetitions)
{
    /// <summary>The parameters of a coupler, and the choices of the first: by the filter table, all, none.</summary>
    public const string GroupsKey = "groups", BroadcastsKey = "broadcasts", RepeatsKey = "repeats", All = "all", None = "none";

    /// <summary>As a coupler is delivered: everything passes.</summary>
    public static CouplerSettings Delivered { get; } = new(null, true, TwoWireLine.MostRepetitions);

    /// <summary>What a coupler does by its parameters and its filter table. What its description does not offer is as delivered.</summary>
    public static CouplerSettings Of(DeviceValues values, IReadOnlySet<GroupNumber> table)
    {
        string? Text(string key) => values.Form.ParameterAt(-1, key) is >= 0 and var at ? values.ValueOf(at) : null;
        return new CouplerSettings(Text(GroupsKey) switch { All => null, None => Nothing, _ => table }, Text(BroadcastsKey) != Parameters.No,
            Parameters.Number(Text(RepeatsKey) ?? "") is { } often ? Math.Clamp((int)often, 0, TwoWireLine.MostRepetitions) : TwoWireLine.MostRepetitions);
    }

    private static IReadOnlySet<GroupNumber> Nothing { get; } = new HashSet<GroupNumber>();
}

/// <summary>
/// A coupler between a line and the one above it. It takes a telegram for the other side when that is where it leads: one to
/// a device by its address, one to a group and one to everybody as its settings say; each pass takes one off
/// its hops. As it is delivered, without a table or an address, it lets everything through. What it cannot hold it is too
/// busy for.
/// </summary>
public sealed class LineCoupler
{
    /// <summary>How many telegrams wait on each side at most.</summary>
    public const int MostWaiting = 32;

    private readonly Func<IndividualAddress> _address;
    private readonly Func<CouplerSettings> _settings;

    /// <summary>Couples two lines.</summary>
    /// <param name="key">By which it is known over a restart.</param>
    /// <param name="lower">The line below.</param>
    /// <param name="upper">The line above.</param>
    /// <param name="isAlive">Whether it has its supply.</param>
    /// <param name="address">Its address; device 0 of the line below.</param>
    /// <param name="settings">What it lets through, and how often it repeats.</param>
    public LineCoupler(string key, TwoWireLine lower, TwoWireLine upper, Func<bool> isAlive, Func<IndividualAddress> address, Func<CouplerSettings> settings)
    {
        (_address, _settings) = (address, settings);
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
        if (frame.IsToGroup) return frame.IsBroadcast ? _settings().PassesBroadcasts : _settings().Table?.Contains(frame.Group) ?? true;
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

        public int Repetitions => coupler._settings().Repetitions;

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
