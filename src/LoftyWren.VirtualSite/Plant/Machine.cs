using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.VirtualSite.Weather;
using NodaTime;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>What a step of the plant is made in: when it ends, by the clock on the wall, under which weather.</summary>
public readonly record struct Moment(long Now, ZonedDateTime Local, Conditions Weather);

/// <summary>Where the heat of all machines together came from and went since the start, in J; what it says of rooms is in <see cref="EnergyLedger"/>.</summary>
public sealed class PlantLedger
{
    /// <summary>Burnt.</summary>
    public double Gas { get; internal set; }

    /// <summary>Of that, up the flue.</summary>
    public double Flue { get; internal set; }

    /// <summary>Taken from the electric mains and turned into heat somewhere.</summary>
    public double Electric { get; internal set; }

    /// <summary>Taken from the air outdoors by air handlers, heat pumps and hoods; negative where it was given to it.</summary>
    public double Outdoors { get; internal set; }

    /// <summary>Given by machines that are fed by nothing that is drawn.</summary>
    public double Unfed { get; internal set; }

    /// <summary>Set free where water fell on a cold coil.</summary>
    public double Latent { get; internal set; }

    /// <summary>Water that fell on cold coils, g.</summary>
    public double Condensed { get; internal set; }

    /// <summary>Water that machines brought into or took from the air of rooms otherwise, g.</summary>
    public double Steam { get; internal set; }
}

/// <summary>
/// A machine at work. What can be measured and driven in it are the quantities of its kind; what else it keeps are its nodes,
/// kept and taken over like them. All machines take their step from the state before it; what they give one another is
/// settled when all have.
/// </summary>
public abstract class Machine(SiteMachine drawn)
{
    private Plant _plant = null!;
    private double[] _values = [];
    private int _first;
    private readonly string[] _names = MachineKinds.NamesOf(drawn.Kind);

    /// <summary>Its motor.</summary>
    public Motor Motor;

    /// <summary>What was built.</summary>
    public SiteMachine Drawn => drawn;

    /// <summary>Heat stored in it above 0 °C, J.</summary>
    public virtual double Stored => 0;

    /// <summary>How much heat it may want at most, W; by it those are built that feed it.</summary>
    internal virtual double Nominal() => 0;

    /// <summary>The quantities and nodes of such a machine, in their order.</summary>
    internal IReadOnlyList<string> Names => _names;

    /// <summary>The place of one of them, or −1.</summary>
    internal int PlaceOf(string name) => Array.IndexOf(_names, name);

    /// <summary>The plant it stands in.</summary>
    protected Plant Plant => _plant;

    /// <summary>The rooms around it.</summary>
    protected Rooms Rooms => _plant.Rooms;

    /// <summary>The accounts of machines.</summary>
    protected PlantLedger Ledger => _plant.Ledger;

    /// <summary>The index of the room it stands in, or −1.</summary>
    internal int Room { get; private set; }

    /// <summary>How much of the room falls to it: those of one kind in a room are built for it together.</summary>
    protected double RoomShare { get; private set; }

    /// <summary>The floor area that it serves, m².</summary>
    protected double Area { get; private set; }

    /// <summary>How warm it is around it, °C.</summary>
    protected double Around => Room >= 0 ? Rooms.Air[Room] : _plant.Weather.Temperature;

    internal void Stand(Plant plant, double[] values, int first, int room, double area, double share)
    {
        (_plant, _values, _first, Room, RoomShare, Area) = (plant, values, first, room, share, area * share);
        Begin();
    }

    /// <summary>Has what is driven, and what was not kept, as it is at first; what was measured stays.</summary>
    internal void BeginAgain(IReadOnlyList<Core.Plant.PlantQuantity> quantities)
    {
        double[] kept = _values[_first..(_first + _names.Length)];
        Array.Clear(_values, _first, _names.Length);
        Begin();
        for (int i = 0; i < quantities.Count; i++)
        {
            if (!quantities[i].IsDriven && kept[i] != 0) _values[_first + i] = kept[i];
        }
    }

    /// <summary>The place of a quantity or node among its own.</summary>
    protected int At(string name)
    {
        int at = Array.IndexOf(_names, name);
        return at >= 0 ? at : throw new InvalidOperationException($"A {drawn.Kind} has no {name}.");
    }

    /// <summary>A quantity or node by its place.</summary>
    protected ref double this[int at] => ref _values[_first + at];

    /// <summary>A quantity in % as a share, 0 to 1.</summary>
    protected double Share(int at) => Math.Clamp(this[at] / 100, 0, 1);

    /// <summary>What its quantities begin with.</summary>
    protected virtual void Begin()
    {
    }

    /// <summary>Meets those that feed it and what it is part of, and tells them.</summary>
    internal virtual void Tie(Func<RecordId?, Machine?> find)
    {
    }

    /// <summary>Is told of a machine that is part of it.</summary>
    internal virtual void Has(Machine part)
    {
    }

    /// <summary>The circuit that a link leads to, which is told; null where it leads to none.</summary>
    private protected WaterCircuit? CircuitAt(Func<RecordId?, Machine?> find, RecordId? link)
    {
        if (find(link) is not WaterCircuit circuit) return null;
        circuit.Feeds(this);
        return circuit;
    }

    /// <summary>Chooses its size, once all are tied.</summary>
    internal virtual void Size()
    {
    }

    /// <summary>Takes a step from the state before it.</summary>
    internal abstract void Step(double seconds, in Moment moment);

    /// <summary>Takes in what others gave it or took from it during the step.</summary>
    internal virtual void Settle(double seconds)
    {
    }
}

/// <summary>How a machine of each kind is made.</summary>
internal static class MachineKinds
{
    // With what each keeps beside the quantities of its kind.
    private static readonly Dictionary<string, string[]> Nodes = new() { ["extract fan"] = ExtractFan.Nodes, ["dust extract"] = ExtractFan.Nodes, ["air handler"] = AirHandler.Nodes };

    private static readonly Dictionary<string, string[]> Names = EquipmentKind.All.ToDictionary(k => k.Name, k => (string[])[.. k.Quantities.Select(q => q.Key), .. Nodes.GetValueOrDefault(k.Name, [])]);

    /// <summary>The quantities and nodes of a kind, in their order; one array for all of it.</summary>
    public static string[] NamesOf(string kind) => Names.GetValueOrDefault(kind, []);

    private static readonly Dictionary<string, Func<SiteMachine, Machine>> Makers = new()
    {
        ["kiln"] = m => new KilnMachine(m),
        ["extract fan"] = m => new ExtractFan(m),
        ["dust extract"] = m => new ExtractFan(m),
        ["fan-coil"] = m => new FanCoil(m),
        ["radiator"] = m => new Radiator(m),
        ["lighting"] = m => new Lighting(m),
        ["blind"] = m => new Blind(m),
        ["humidifier"] = m => new Humidifier(m),
        ["boiler"] = m => new Boiler(m),
        ["heat pump"] = m => new HeatPump(m),
        ["water circuit"] = m => new WaterCircuit(m),
        ["air handler"] = m => new AirHandler(m),
        ["supply zone"] = m => new SupplyZone(m),
    };

    /// <summary>Makes it; of a kind that does nothing of its own a machine that answers when it is told to run.</summary>
    public static Machine Make(SiteMachine drawn) => Makers.TryGetValue(drawn.Kind, out var make) ? make(drawn) : new Runner(drawn);
}

/// <summary>A machine with water of one temperature in it, that gives and takes heat.</summary>
internal abstract class WaterNode(SiteMachine drawn) : Machine(drawn)
{
    private double _taken;

    /// <summary>The place of its temperature among its quantities.</summary>
    protected int TemperatureAt { get; set; }

    /// <summary>How warm its water is, °C.</summary>
    public double Temperature => this[TemperatureAt];

    /// <summary>Heat capacity, J/K; 0 while its water goes round in itself and nobody keeps account of it.</summary>
    protected double Capacity { get; set; }

    public override double Stored => Capacity * Temperature;

    /// <summary>Takes so many J out of the water, once all have taken their step; negative gives.</summary>
    public void Take(double joules) => _taken += joules;

    /// <summary>Gives the heat that is lost through the walls to what is around it.</summary>
    protected void Lose(double joules, double seconds)
    {
        Take(joules);
        if (Room >= 0) Rooms.PlantHeat[Room] += joules / seconds;
        else Ledger.Outdoors -= joules;
    }

    internal override void Settle(double seconds)
    {
        if (Capacity > 0) this[TemperatureAt] -= _taken / Capacity;
        _taken = 0;
    }
}

/// <summary>A machine of which only the motor matters.</summary>
internal sealed class Runner(SiteMachine drawn) : Machine(drawn)
{
    private int _run = -1, _level = -1, _status = -1;

    protected override void Begin()
    {
        if (Names.Contains("status")) (_run, _level, _status) = (At("run"), At("level"), At("status"));
    }

    internal override void Step(double seconds, in Moment moment)
    {
        if (_status < 0) return;
        Motor.Step(seconds, this[_run] > 0.5 || this[_level] > 2);
        this[_status] = Motor.Turns ? 1 : 0;
    }
}
