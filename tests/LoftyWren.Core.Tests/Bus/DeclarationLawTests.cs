using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>Laws over what behaviours declare of their objects: what is declared is there, and what they do is declared.</summary>
public sealed class DeclarationLawTests
{
    public static TheoryData<string> Kinds => [.. BehaviourKinds.All.Select(k => k.Key)];

    public static TheoryData<string> Devices => [.. DescriptionShelf.Shipped.Where(d => d.Channels.Count > 0).Select(d => d.Id)];

    [Theory]
    [MemberData(nameof(Kinds))]
    public void What_an_object_passes_on_and_repeats_is_declared(string key)
    {
        BehaviourKind kind = BehaviourKinds.Find(key)!;
        foreach (BehaviourObject o in kind.Objects)
        {
            // Behaviours share declarations of regulation: what one of them has no object for, it does not pass on.
            Assert.All(o.Passes, passed => Assert.Contains(BehaviourKinds.All.SelectMany(k => k.Objects), x => x.Key == passed));
            if (o.Passes.Count > 0) Assert.Contains(kind.Objects, x => o.Passes.Contains(x.Key));
            if (o.Again is { } again) Assert.Contains(again, kind.Settings);
            if (o.Scenes is { } scenes) Assert.Contains(scenes, kind.Settings);
        }
        Assert.All(kind.Drives.Where(d => d.MovedBy is not null), d => Assert.Contains(d.MovedBy, kind.Drives));
    }

    // A side leads to the other and back, between settings of one sort, unit and limits: only then can one be copied onto the other.
    [Theory]
    [MemberData(nameof(Kinds))]
    public void What_is_there_for_heating_and_cooling_leads_to_the_other_and_back(string key)
    {
        BehaviourKind kind = BehaviourKinds.Find(key)!;
        foreach (ParameterDescription setting in kind.Settings)
        {
            if (setting.Twin is not { } twin) continue;
            ParameterDescription other = kind.Setting(twin.Key)!;
            Assert.Equal(setting.Key, other.Twin!.Value.Key);
            Assert.NotEqual(twin.Side, other.Twin.Value.Side);
            Assert.Equal((setting.Sort, setting.Unit, setting.Least, setting.Most, setting.Step), (other.Sort, other.Unit, other.Least, other.Most, other.Step));
        }
    }

    /// <summary>
    /// Law: whatever a device says in the moment in which it hears an object is declared to follow from that object; so what
    /// goes in a circle is found. Over all devices that ship, with settings and values by chance.
    /// </summary>
    [Theory]
    [MemberData(nameof(Devices))]
    public void What_is_said_because_something_was_heard_is_declared(string id)
    {
        DeviceForm form = DescriptionShelf.Shipped.Single(d => d.Id == id).Form;
        var chance = new Random(id.Length * 31);
        // Each object that sends says it under a group of its own.
        var joins = form.Objects.Where(o => o.Sends).Select((o, i) => (o.Path, (IReadOnlyList<GroupNumber>)[new GroupNumber((ushort)(i + 1))])).ToList();
        var byGroup = form.Objects.Where(o => o.Sends).Select((o, i) => (o, i)).ToDictionary(x => new GroupNumber((ushort)(x.i + 1)), x => x.o);
        for (int round = 0; round < 25; round++)
        {
            DeviceValues values = BehaviourLawTests.Random(form, chance);
            var device = new DeviceRunner(values, joins);
            device.Begin(0, Wake.New);
            long now = 0;
            Settle(device, ref now, chance.Next(10, 400) * 1000L);
            foreach (ObjectForm heard in form.Objects.Where(o => o.Hears && values.IsThere(o) && values.IsInUse(o.Channel)).OrderBy(_ => chance.Next()).Take(40))
            {
                Settle(device, ref now, now + 20_000);
                double high = heard.Type.IsSingle ? heard.Type.Fields[0].High : (1 << Math.Min(20, heard.Type.Bits)) - 1, low = heard.Type.IsSingle ? heard.Type.Fields[0].Low : 0;
                // A moment at which nothing is due of itself.
                if (device.NextDue <= now) continue;
                device.Write(now, heard, heard.Type.Main == 9 ? chance.Next(150, 260) / 10.0 : Math.Round(low + (chance.NextDouble() * (high - low))));
                while (device.TryTake(out GroupTelegram telegram))
                {
                    ObjectForm said = byGroup[telegram.Group];
                    Assert.True(said.Channel == heard.Channel && heard.Is.Passes.Contains(said.Is.Key), $"{id}: {heard.Path} was heard and {said.Path} said, which is not declared");
                }
            }
        }
    }

    private static void Settle(DeviceRunner device, ref long now, long until)
    {
        while (device.NextDue <= until)
        {
            now = Math.Max(now, device.NextDue);
            device.Run(now);
        }
        now = until;
        while (device.TryTake(out _))
        {
        }
    }

    /// <summary>Law: a circle is told where there is one and only there: over actuators joined by chance, against walking every way by hand, where nobody hears what he says himself.</summary>
    [Fact]
    public void Circles_are_those_that_walking_every_way_finds()
    {
        var chance = new Random(11);
        RecordId line = new("line"), room = new("room");
        for (int round = 0; round < 200; round++)
        {
            int groups = chance.Next(2, 9), devices = chance.Next(1, 8);
            var edges = new List<(int From, int Device, int To)>();
            var records = new List<ProjectRecord> { new BusLine { Id = line, Name = "Line", Area = 1, Line = 1 } };
            for (int g = 0; g < groups; g++) records.Add(new GroupAddress { Id = new($"g{g}"), Name = $"g{g}", Number = GroupNumber.Of(1, 0, g + 1), Datapoint = "1.001" });
            for (int d = 0; d < devices; d++)
            {
                // What switches an output says its state: from the group that it hears to the one that it says.
                var joins = new List<ObjectJoin>();
                for (int c = 1; c <= 4; c++)
                {
                    int hears = chance.Next(groups), says = chance.Next(groups);
                    edges.Add((hears, d, says));
                    joins.Add(new ObjectJoin($"output{c}.state", [new($"g{says}")]));
                    joins.Add(new ObjectJoin($"output{c}.switch", [new($"g{hears}")]));
                }
                records.Add(new BusDevice { Id = new($"d{d}"), Name = $"d{d}", PlaceId = room, DescriptionId = "switch-4", LineId = line, Number = d + 1, Joins = [.. joins.OrderBy(j => j.Object, StringComparer.Ordinal)] });
            }
            Project project = Project.Load(0, records.Select(r => new Entry(r, 0)));
            // What a device has said under a group leads to what another says by it.
            int all = groups * devices;
            bool[,] reaches = new bool[all, all];
            foreach (var (from, device, to) in edges)
            {
                for (int speaker = 0; speaker < devices; speaker++)
                {
                    if (speaker != device) reaches[(from * devices) + speaker, (to * devices) + device] = true;
                }
            }
            for (int k = 0; k < all; k++)
            {
                for (int i = 0; i < all; i++)
                {
                    for (int j = 0; reaches[i, k] && j < all; j++) reaches[i, j] |= reaches[k, j];
                }
            }
            for (int g = 0; g < groups; g++)
            {
                var circle = TelegramCircle.From(project, project.Find<GroupAddress>(new($"g{g}"))!);
                Assert.Equal(Enumerable.Range(g * devices, devices).Any(n => reaches[n, n]), circle is not null);
                if (circle is null) continue;
                // Each step goes on where the last one ended, and the last ends where the first began.
                Assert.Equal(circle[0].From.Id, circle[^1].To.Id);
                for (int i = 0; i < circle.Count; i++)
                {
                    TelegramStep before = circle[(i + circle.Count - 1) % circle.Count];
                    Assert.Equal(before.To.Id, circle[i].From.Id);
                    Assert.NotEqual(before.Device.Id, circle[i].Device.Id);
                }
            }
        }
    }
}
