using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;

namespace LoftyWren.Benchmarks;

/// <summary>Bus devices: what their behaviours cost, and finding what is in force on one.</summary>
internal static class BusDevices
{
    private const long Day = 86_400_000;

    /// <summary>Each device that ships lives a day in which something comes to each of its channels every minute; how many times faster than real.</summary>
    public static IEnumerable<(string Name, int Channels, double Times)> Kinds()
    {
        foreach (DeviceDescription description in DescriptionShelf.Shipped.Where(d => d.Channels.Count > 0))
        {
            DeviceValues values = DeviceValues.Of(description.Form, new Dictionary<string, string>());
            var device = new DeviceRunner(values, []);
            ObjectForm[] heard = [.. description.Form.Objects.Where(o => o.Hears && values.IsThere(o))];
            device.Begin(0, Wake.New);
            Live(device, values, heard, 0, Day / 24);
            var clock = System.Diagnostics.Stopwatch.StartNew();
            Live(device, values, heard, Day / 24, Day + (Day / 24));
            yield return (description.Name, description.Form.Channels.Count, Day / clock.Elapsed.TotalMilliseconds);
        }
    }

    /// <summary>What is in force on a device of so many parameters, some of them set; and the peer: reading each of them from a dictionary.</summary>
    public static (int Parameters, Action Ours, Action Peer) InForce()
    {
        DeviceForm form = DescriptionShelf.Shipped.MaxBy(d => d.Form.Parameters.Count)!.Form;
        var set = form.Parameters.Where((p, i) => i % 9 == 0).ToDictionary(p => p.Path, p => p.Is.Begins);
        return (form.Parameters.Count, () => DeviceValues.Of(form, set), () =>
        {
            string[] values = new string[form.Parameters.Count];
            foreach (ParameterForm p in form.Parameters) values[p.At] = set.GetValueOrDefault(p.Path, p.Is.Begins);
            GC.KeepAlive(values);
        }
        );
    }

    private static void Live(DeviceRunner device, DeviceValues values, ObjectForm[] heard, long from, long until)
    {
        int turn = 0;
        for (long now = from; now < until; now += 60_000, turn++)
        {
            while (device.NextDue <= now)
            {
                device.Run(Math.Max(now - 60_000, device.NextDue));
                while (device.TryTake(out _))
                {
                }
            }
            device.Sense(now, -1, "movement", turn & 1);
            device.Sense(now, -1, "contact", turn & 1);
            device.Sense(now, -1, "wind", turn % 20);
            device.Sense(now, -1, "temperature", 18 + (turn % 8));
            foreach (ObjectForm o in heard) device.Write(now, o, turn % 3 == 0 ? o.Type.IsSingle ? o.Type.Fields[0].High : 9 : 0);
        }
        GC.KeepAlive(values);
    }
}
