namespace LoftyWren.Core.Devices;

/// <summary>Where a device meets a medium. Which medium that is, it says by its key; what goes over it is a matter of the two.</summary>
public interface IDevicePort
{
    /// <summary>The key of the medium: wires, ip, trunk, two-wire.</summary>
    string Medium { get; }
}

/// <summary>The terminals of a device: what is measured at each and what each gives, in the unit of its signal, for as long as nothing else is said.</summary>
public sealed class TerminalPort : IDevicePort
{
    /// <summary>The key of wires.</summary>
    public const string Wires = "wires";

    /// <summary>Makes terminals in panel order; nothing is connected to any.</summary>
    public TerminalPort(IReadOnlyList<string> terminals)
    {
        Terminals = terminals;
        Inputs = new double[terminals.Count];
        Outputs = new double[terminals.Count];
        Simulated = new bool[terminals.Count];
        Array.Fill(Inputs, double.NaN);
    }

    /// <inheritdoc/>
    public string Medium => Wires;

    /// <summary>Their names; the index is that of the raw values.</summary>
    public IReadOnlyList<string> Terminals { get; }

    /// <summary>What each measures. Not a number: nothing connected.</summary>
    public double[] Inputs { get; }

    /// <summary>What each gives.</summary>
    public double[] Outputs { get; }

    /// <summary>Whether what each measures was put there by hand in place of its sensor.</summary>
    public bool[] Simulated { get; }

    /// <summary>The terminal's index, or −1.</summary>
    public int IndexOf(string terminal)
    {
        for (int i = 0; i < Terminals.Count; i++)
        {
            if (Terminals[i] == terminal) return i;
        }
        return -1;
    }
}

/// <summary>A message on its way: from whom, to whom (nobody in particular: to all), and its bytes, which are the medium's again once it is heard.</summary>
public readonly record struct Telegram(string From, string? To, ReadOnlyMemory<byte> Body);

/// <summary>
/// A connector on something that carries messages. What the device says waits here until whoever runs it takes it to the
/// medium; what comes is heard at the moment it comes.
/// </summary>
public sealed class MessagePort(string medium, string address, Action<long, Telegram> hear, IReadOnlyCollection<string>? talksTo = null) : IDevicePort
{
    private readonly List<(string? To, byte[] Body)> _said = [];

    /// <inheritdoc/>
    public string Medium { get; } = medium;

    /// <summary>Under which it is reached there.</summary>
    public string Address { get; } = address;

    /// <summary>Whom it talks to of itself; null for whoever may be there.</summary>
    public IReadOnlyCollection<string>? TalksTo { get; } = talksTo;

    /// <summary>Whether something waits to be taken to the medium.</summary>
    public bool HasSaid => _said.Count > 0;

    /// <summary>Says something to an address, or to all.</summary>
    public void Say(string? to, byte[] body) => _said.Add((to, body));

    /// <summary>What waits, oldest first; it waits no more.</summary>
    public void Take(Action<string?, byte[]> each)
    {
        foreach (var (to, body) in _said) each(to, body);
        _said.Clear();
    }

    /// <summary>Tells the device what has come, at a moment of site time in ms.</summary>
    public void Hear(long now, Telegram telegram) => hear(now, telegram);
}

/// <summary>The media that ship.</summary>
public static class Carriers
{
    /// <summary>The IP network, the serial trunk and the two-wire line.</summary>
    public const string Ip = "ip", Trunk = "trunk", TwoWire = "two-wire";
}
