using System.Text.Json.Serialization;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>A room as the virtual site builds it.</summary>
public sealed record SiteRoom
{
    /// <summary>Its identity; that of the project's room it was built from.</summary>
    public required RecordId Id { get; init; }

    /// <summary>What people call it.</summary>
    public required string Name { get; init; }

    /// <summary>Floor area, m².</summary>
    public required double AreaSquareMetres { get; init; }

    /// <summary>Clear height, m.</summary>
    public double HeightMetres { get; init; } = 3;

    /// <summary>Rooms on the other side of a wall, with the wall's area in m².</summary>
    public IReadOnlyList<SharedWall> Walls { get; init; } = [];

    /// <summary>How many people work in it while the site is open.</summary>
    public double People { get; init; }

    /// <summary>Whether a radiator with a valve of its own keeps it from the cold, apart from all control.</summary>
    public bool BackgroundHeating { get; init; }

    /// <summary>Two rooms are the same when all about them is, the walls one by one.</summary>
    public bool Equals(SiteRoom? other) => ReferenceEquals(this, other) || (other is not null && Id == other.Id && Name == other.Name && AreaSquareMetres == other.AreaSquareMetres && HeightMetres == other.HeightMetres && People == other.People && BackgroundHeating == other.BackgroundHeating && Walls.SequenceEqual(other.Walls));

    /// <inheritdoc/>
    public override int GetHashCode() => Id.GetHashCode();
}

/// <summary>A wall to another room.</summary>
public sealed record SharedWall(RecordId Room, double AreaSquareMetres);

/// <summary>A machine in a room.</summary>
public sealed record SiteMachine
{
    /// <summary>Its identity; that of the project's equipment.</summary>
    public required RecordId Id { get; init; }

    /// <summary>What people call it.</summary>
    public required string Name { get; init; }

    /// <summary>The kind of equipment.</summary>
    public required string Kind { get; init; }

    /// <summary>The room it stands in, if it stands in one.</summary>
    public RecordId? Room { get; init; }

    /// <summary>The machine it is part of.</summary>
    public RecordId? PartOf { get; init; }

    /// <summary>Where its heating water comes from, or water that changes over.</summary>
    public RecordId? WaterFrom { get; init; }

    /// <summary>Where its chilled water comes from.</summary>
    public RecordId? ColdFrom { get; init; }

    /// <summary>Where its air comes from.</summary>
    public RecordId? AirFrom { get; init; }
}

/// <summary>A pair of wires from a controller's terminal to something in the plant, through a real sensor or actuator.</summary>
public sealed record Wire
{
    /// <summary>The controller.</summary>
    public required RecordId ControllerId { get; init; }

    /// <summary>The terminal, such as UI3.</summary>
    public required string Terminal { get; init; }

    /// <summary>The point it was drawn for; none where it was built before that was noted.</summary>
    public RecordId? PointId { get; init; }

    /// <summary>Whether something is measured over it or moved; missing in what older versions built.</summary>
    public Direction? Direction { get; init; }

    /// <summary>What the sensor or actuator at the other end gives or takes.</summary>
    public required Signal Signal { get; init; }

    /// <summary>The quantity's value at the low end of the signal.</summary>
    public double Low { get; init; }

    /// <summary>The quantity's value at the high end of the signal.</summary>
    public double High { get; init; } = 100;

    /// <summary>Whether the contact at the far end is a normally closed one: it is open when what it tells is so, as a broken wire is.</summary>
    public bool Inverted { get; init; }

    /// <summary>Resistance of both wires, Ω.</summary>
    public double LeadOhms { get; init; }

    /// <summary>What one pulse of a meter counts.</summary>
    public double PerPulse { get; init; } = 1;

    /// <summary>The curve of a sensor that follows one of the project's own, as <see cref="SensorCurve.Parse"/> reads it.</summary>
    public string? Curve { get; init; }

    /// <summary>How long the drive takes from end to end, s.</summary>
    public double RunTimeSeconds { get; init; }

    /// <summary>What the sensor or actuator at the far end is like.</summary>
    [JsonIgnore]
    public SignalSettings Settings => new(Low, High, Inverted: Inverted, LeadOhms: LeadOhms, PerPulse: PerPulse, Own: Curve is null || SensorCurve.Parse(Curve, out _) is not { } points ? null : new PointCurve([.. points.Select(p => (p.Raw, p.Value))]));

    /// <summary>What it is tied to, such as <c>room/kiln-room/temperature</c>; see <see cref="Plant.Quantities"/>.</summary>
    public required string Quantity { get; init; }

    /// <summary>Whether somebody had chosen what it is tied to when it was built; one that was only proposed stays as it hangs, whatever is proposed later.</summary>
    public bool IsChosen { get; init; }

    /// <summary>What people call it.</summary>
    public required string Name { get; init; }

    /// <summary>The unit of the quantity, for showing.</summary>
    public string? Unit { get; init; }
}

/// <summary>What is wrong with a wire on purpose.</summary>
public enum WireFault
{
    /// <summary>The circuit is broken: a sensor that went silent.</summary>
    Open,
    /// <summary>The two wires touch.</summary>
    Short,
    /// <summary>The actuator does not move any more.</summary>
    Stuck,
}

/// <summary>A fault that is built in: at a terminal of a controller, or where a channel of a bus device drives something (<c>room1.heatValve</c>).</summary>
public sealed record BuiltInFault(RecordId ControllerId, string Terminal, WireFault Fault, double Value = 0);

/// <summary>What is wrong with a medium on purpose: for one address or, of none, for all; cut off altogether, or so many percent of what is said lost and the rest late by so many ms.</summary>
public sealed record MediumFault(string Medium, string? Address, bool IsCut = false, double LostPercent = 0, int DelayMilliseconds = 0);

/// <summary>Everything outside the controllers: rooms, machines, wires. The virtual site's own record of itself.</summary>
public sealed record SitePlan
{
    /// <summary>The seed of weather and noise.</summary>
    public int Seed { get; init; } = 41;

    /// <summary>The zone in which people come to work and kilns are fired.</summary>
    public string TimeZone { get; init; } = "Europe/London";

    /// <summary>Rooms.</summary>
    public IReadOnlyList<SiteRoom> Rooms { get; init; } = [];

    /// <summary>Machines.</summary>
    public IReadOnlyList<SiteMachine> Machines { get; init; } = [];

    /// <summary>Wires.</summary>
    public IReadOnlyList<Wire> Wires { get; init; } = [];

    /// <summary>Faults.</summary>
    public IReadOnlyList<BuiltInFault> Faults { get; init; } = [];

    /// <summary>Faults of media.</summary>
    public IReadOnlyList<MediumFault> MediumFaults { get; init; } = [];

    /// <summary>Whether another plan draws the same rooms and machines under the same weather.</summary>
    public bool HasPlantOf(SitePlan other) => Seed == other.Seed && TimeZone == other.TimeZone
        && (ReferenceEquals(Rooms, other.Rooms) || Rooms.SequenceEqual(other.Rooms))
        && (ReferenceEquals(Machines, other.Machines) || Machines.SequenceEqual(other.Machines));

    /// <summary>Whether another plan draws the same rooms, machines and faults; wires are not looked at.</summary>
    public bool IsBuiltLike(SitePlan other) => HasPlantOf(other)
        && (ReferenceEquals(Faults, other.Faults) || Faults.SequenceEqual(other.Faults))
        && (ReferenceEquals(MediumFaults, other.MediumFaults) || MediumFaults.SequenceEqual(other.MediumFaults));
}
