using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

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

    /// <summary>A line on which 64 devices always have something to say, for ten minutes: how loaded it is in %, and how many times faster than real.</summary>
    public static (double Load, double Times) FullLine()
    {
        const int devices = 64;
        const long until = 600_000;
        DeviceDescription description = DescriptionShelf.Shipped.Single(d => d.Id == "switch-4");
        ObjectForm heard = description.Form.FindObject("output1.switch")!, said = description.Form.FindObject("output1.state")!;
        var network = new BusNetwork();
        var program = new Speaker(network);
        network.Line("line").Attach(program);
        for (int i = 1; i <= devices; i++)
        {
            // Each hears one group and answers under another.
            GroupNumber[] groups = [new((ushort)i), new((ushort)(256 + i))];
            network.Hang(0, $"d{i}", "line", description, BusSerial.Label((ulong)i)).Write(0, new ApplicationImage(new Dictionary<int, string>(), groups, [new ObjectTie(0, heard.Number), new ObjectTie(1, said.Number)]), IndividualAddress.Of(1, 1, i));
        }
        var clock = System.Diagnostics.Stopwatch.StartNew();
        for (long now = 0; now < until; now += 1000)
        {
            for (int i = 0; i < 60; i++) program.Say(1 + (int)(((now / 1000) + i) % devices), (now / 1000) + i, now);
            network.RunUntil(now + 1000);
        }
        return (network.Line("line").BusyMicroseconds / (until * 10.0), until / clock.Elapsed.TotalMilliseconds);
    }

    private sealed class Speaker(BusNetwork network) : ILineStation
    {
        public string Key => "speaker";

        public bool IsAlive => true;

        public LineAnswer Answer(BusFrame frame) => frame.IsToGroup && frame.To > 256 ? LineAnswer.Taken : LineAnswer.None;

        public void Hear(long microseconds, BusFrame frame)
        {
        }

        public void Sent(long microseconds, BusFrame frame, bool isTaken)
        {
        }

        public void Say(int group, long value, long now) => network.Line("line").Want(this, BusFrame.OfGroup(BusService.GroupWrite, new((ushort)group), [(byte)(value & 1)], 1) with { From = IndividualAddress.Of(1, 1, 250) }, now * 1000);
    }

    /// <summary>What a page shows of all parameters of the largest device: whether each is there, its value in words, why it is hidden and what would show it; and the peer: serialising their declarations.</summary>
    public static (int Parameters, Action Ours, Action Peer) Page()
    {
        DeviceForm form = DescriptionShelf.Shipped.MaxBy(d => d.Form.Parameters.Count)!.Form;
        DeviceValues values = DeviceValues.Of(form, form.Parameters.Where((p, i) => i % 9 == 0).ToDictionary(p => p.Path, p => p.Is.Begins));
        return (form.Parameters.Count, () =>
        {
            int letters = 0;
            foreach (ParameterForm p in form.Parameters) letters += p.Is.Say(values.ValueOf(p.At)).Length + (values.WhyHidden(p.Is.Label!, p.When)?.Sentence.Length ?? 0);
            GC.KeepAlive(letters);
        },
        () => GC.KeepAlive(System.Text.Json.JsonSerializer.Serialize(form.Parameters.Select(p => p.Is), RecordJson.Options)));
    }

    /// <summary>An edit of one device with its findings, in a project of so many devices with ten addresses each.</summary>
    public static Action Edit(int devices)
    {
        Project project = Large(devices, devices * 10, 48);
        var findings = Core.Findings.FindingsIndex.Full(project);
        BusDevice device = project.Find<BusDevice>(new("d7"))!;
        long turn = 0;
        return () =>
        {
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Core.Projects.Edit.Of(device with { Settings = [new("output1.onDelay", $"{1 + (turn++ % 60)}")] }, project.FindEntry(device.Id)!.Revision)], "bench", 0, "bench"));
            if (!outcome.Accepted) throw new InvalidOperationException(outcome.Refusals[0].Sentence);
            findings = findings.After(project, outcome.After!, outcome.Entry!.Changes.Select(c => c.Id));
            project = outcome.After!;
        };
    }

    /// <summary>2,000 devices that hang on lines, of which one in a hundred has something to do before each writing; what is kept of them as bytes, and the peer: serialising all of it.</summary>
    public static (long Bytes, Action Ours, Action Peer) Kept()
    {
        const int devices = 2000, lines = 48;
        DeviceDescription description = DescriptionShelf.Shipped.Single(d => d.Id == "switch-12");
        ObjectForm heard = description.Form.FindObject("output1.switch")!;
        var network = new BusNetwork();
        var units = new List<BusUnit>();
        for (int i = 0; i < devices; i++)
        {
            BusUnit unit = network.Hang(0, $"d{i}", $"l{i % lines}", description, BusSerial.Label((ulong)i));
            unit.Write(0, new ApplicationImage(new Dictionary<int, string>(), [new((ushort)(1 + i))], [new ObjectTie(0, heard.Number)]), IndividualAddress.Of(1 + (i % lines / 16), i % lines % 16, 1 + (i / lines)));
            units.Add(unit);
        }
        long now = 1000;
        network.RunUntil(now);
        byte[] bytes = System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(network.Remember(), RecordJson.Options);
        return (bytes.Length, () =>
        {
            now += 5000;
            for (int i = 0; i < devices; i += 100) network.Do(now, units[i], (unit, moment) => unit.DriveByHand(moment, 2, 1));
            network.RunUntil(now);
            GC.KeepAlive(network.Remember());
        },
        () => GC.KeepAlive(System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(network.Remember(), RecordJson.Options)));
    }

    /// <summary>The filter tables of a project of 2,000 devices on 48 lines and 20,000 addresses, and the peer: reading all joins.</summary>
    public static (int Devices, int Groups, Action Ours, Action Peer) Tables()
    {
        const int devices = 2000, groups = 20_000, lines = 48;
        Project project = Large(devices, groups, lines);
        return (devices, groups, () => FilterTables.Of(project), () =>
        {
            int sum = 0;
            foreach (BusDevice device in project.All<BusDevice>())
            {
                foreach (ObjectJoin join in device.Joins)
                {
                    foreach (RecordId group in join.Groups) sum += project.Find<GroupAddress>(group)!.Number.Raw;
                }
            }
            GC.KeepAlive(sum);
        }
        );
    }

    private static Project Large(int devices, int groups, int lines)
    {
        DeviceForm form = DescriptionShelf.Shipped.Single(d => d.Id == "switch-12").Form;
        string[] objects = [.. form.Objects.Where(o => o.Path.EndsWith(".switch", StringComparison.Ordinal) || o.Path.EndsWith(".state", StringComparison.Ordinal)).Take(20).Select(o => o.Path).Order(StringComparer.Ordinal)];
        var records = new List<ProjectRecord>(devices + groups + lines)
        {
            new Place { Id = new("site"), Name = "Pottery", Kind = PlaceKind.Site, TimeZone = "Europe/London" }, new Place { Id = new("house"), Name = "House", Kind = PlaceKind.Building, In = new("site") },
            new Place { Id = new("ground"), Name = "Ground", Kind = PlaceKind.Floor, In = new("house") }, new Place { Id = new("room"), Name = "Room", Kind = PlaceKind.Room, In = new("ground") },
        };
        for (int l = 0; l < lines; l++) records.Add(new BusLine { Id = new($"l{l}"), Name = $"Line {l}", Area = 1 + (l / 16), Line = l % 16, LengthMetres = 100 });
        for (int g = 0; g < groups; g++) records.Add(new GroupAddress { Id = new($"g{g}"), Name = $"Group {g}", Number = new((ushort)(g + 1)), Datapoint = "1.001" });
        for (int d = 0; d < devices; d++)
        {
            records.Add(new BusDevice
            {
                Id = new($"d{d}"),
                Name = $"Device {d}",
                PlaceId = new("room"),
                DescriptionId = "switch-12",
                LineId = new($"l{d % lines}"),
                Number = 1 + (d / lines),
                Joins = [.. objects.Select((o, i) => new ObjectJoin(o, [new RecordId($"g{((d * 7) + (i * 1009)) % groups}")]))],
            });
        }
        return Project.Load(0, records.Select(r => new Entry(r, 0)));
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
