using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Devices;

namespace LoftyWren.Core.Bus.Lines;

/// <summary>A group as a controller has it: whether it hears it or says it, and after how long what it says is said again though it is the same, ms; 0 for never.</summary>
public sealed record PortGroup(GroupNumber Group, DatapointType Type, bool Says, long AgainMilliseconds = 0);

/// <summary>
/// Where a controller meets a two-wire line: the last value of each group that it hears, and what each that it says is to be,
/// both in the unit of the datapoint. What is another is said at once, and again as often as its group asks for; what is heard is there at once, and the controller is told.
/// </summary>
public sealed class BusPort : IDevicePort
{
    /// <summary>Makes a port; nothing has been heard.</summary>
    /// <param name="line">The line, by its record.</param>
    /// <param name="address">The address by which it speaks.</param>
    /// <param name="groups">Its groups.</param>
    /// <param name="came">Told when something came, at a moment of site time in ms.</param>
    public BusPort(string line, IndividualAddress address, IReadOnlyList<PortGroup> groups, Action<long> came)
    {
        (Line, Address, Groups, Came) = (line, address, groups, came);
        (Heard, Says) = (new double[groups.Count], new double[groups.Count]);
        Array.Fill(Heard, double.NaN);
        Array.Fill(Says, double.NaN);
    }

    /// <inheritdoc/>
    public string Medium => Carriers.TwoWire;

    /// <summary>The line, by its record.</summary>
    public string Line { get; }

    /// <summary>The address by which it speaks.</summary>
    public IndividualAddress Address { get; }

    /// <summary>Its groups; the index is that of the values.</summary>
    public IReadOnlyList<PortGroup> Groups { get; }

    /// <summary>What was heard last; not a number where nothing was, or the line is dead.</summary>
    public double[] Heard { get; }

    /// <summary>What is to be said; not a number for nothing.</summary>
    public double[] Says { get; }

    /// <summary>Told when something came.</summary>
    public Action<long> Came { get; }
}
