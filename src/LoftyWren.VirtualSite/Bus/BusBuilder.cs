using System.Security.Cryptography;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Places;
using LoftyWren.Core.Plant;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.VirtualSite.Bus;

/// <summary>The stand-in for the electrician: which device comes out of which box, where it hangs, and what its channels sense and drive.</summary>
public static class BusBuilder
{
    /// <summary>A device as it is drawn, to be hung; null while it is on no line, or the project has lost its description.</summary>
    /// <param name="project">The project.</param>
    /// <param name="device">The device.</param>
    /// <param name="serial">The label of the one that hangs there already, where one does.</param>
    /// <param name="isWritten">Whether it is written at the bench before.</param>
    /// <param name="tables">What couplers let through, where it is written.</param>
    public static BoxedBusDevice? BoxOf(Project project, BusDevice device, string? serial, bool isWritten = false, FilterTables? tables = null)
    {
        if (device.DescriptionIn(project) is not { } description || project.Find<BusLine>(device.LineId) is not { } line) return null;
        RecordId? above = description.Role != LineRole.Coupler ? null : project.All<BusLine>().FirstOrDefault(l => line.Line != 0 ? l.Area == line.Area && l.Line == 0 : line.Area != 0 && l is { Area: 0, Line: 0 })?.Id;
        // A label that is not known yet is that of whatever comes out of the box.
        string label = device.Serial ?? serial ?? BusSerial.Label((0x00FAul << 32) + (uint)RandomNumberGenerator.GetInt32(1 << 30));
        return new BoxedBusDevice(device.Id, line.Id.Value, above?.Value, description, label, [.. TiesOf(project, device)], isWritten ? device.AddressIn(project) : null, isWritten ? ApplicationImage.Of(project, device, tables) : null);
    }

    /// <summary>What the channels of a device are tied to: of each what it senses of its room or of the weather, and what it drives of its equipment, as far as the building has it.</summary>
    public static IEnumerable<BusTie> TiesOf(Project project, BusDevice device)
    {
        if (device.ValuesIn(project) is not { } values) yield break;
        for (int c = 0; c < values.Form.Channels.Count; c++)
        {
            ChannelForm channel = values.Form.Channels[c];
            ChannelUse? use = device.Uses.FirstOrDefault(u => u.Channel == channel.Key);
            foreach (BehaviourPort port in channel.Behaviour.Senses)
            {
                if (port.Quantity is null) continue;
                if (port.IsOutdoors) yield return new BusTie(channel.Key, port.Key, $"outdoor/{port.Quantity}");
                else if (project.Find<Place>(use?.PlaceId ?? device.PlaceId) is { Kind: PlaceKind.Room } room) yield return new BusTie(channel.Key, port.Key, $"room/{room.Id}/{port.Quantity}");
            }
            if (project.Find<Equipment>(use?.EquipmentId) is not { } equipment) continue;
            IReadOnlyList<PlantQuantity> has = EquipmentKind.Find(equipment.Kind).Quantities;
            foreach (BehaviourPort port in channel.Behaviour.Drives)
            {
                if (port.Quantity is not null && has.Any(q => q.IsDriven && q.Key == port.Quantity)) yield return new BusTie(channel.Key, port.Key, $"machine/{equipment.Id}/{port.Quantity}");
            }
        }
    }
}
