using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>What holds of a few bus devices holds of 2,000 under 20,000 addresses, and of an address that thousands listen to.</summary>
public sealed class LargeBusTests
{
    private const int Devices = 2000, Groups = 20_000, Lines = 48;

    private static readonly RecordId Hub = new("hub");

    private static readonly Lazy<Project> Large = new(() =>
    {
        DeviceForm form = DescriptionShelf.Shipped.Single(d => d.Id == "switch-12").Form;
        string[] objects = [.. form.Objects.Where(o => o.Path.EndsWith(".switch", StringComparison.Ordinal) || o.Path.EndsWith(".state", StringComparison.Ordinal)).Select(o => o.Path).Order(StringComparer.Ordinal)];
        var records = new List<ProjectRecord>
        {
            new Place { Id = new("site"), Name = "Pottery", Kind = PlaceKind.Site, TimeZone = "Europe/London" }, new Place { Id = new("house"), Name = "House", Kind = PlaceKind.Building, In = new("site") },
            new Place { Id = new("ground"), Name = "Ground", Kind = PlaceKind.Floor, In = new("house") }, new Place { Id = new("room"), Name = "Room", Kind = PlaceKind.Room, In = new("ground") },
            new GroupAddress { Id = Hub, Name = "All off", Number = GroupNumber.Of(31, 7, 255), Datapoint = "1.001" },
        };
        for (int l = 0; l < Lines; l++) records.Add(new BusLine { Id = new($"l{l}"), Name = $"Line {l}", Area = 1 + (l / 16), Line = l % 16, LengthMetres = 100 });
        for (int g = 0; g < Groups; g++) records.Add(new GroupAddress { Id = new($"g{g}"), Name = $"Group {g}", Number = new((ushort)(g + 1)), Datapoint = "1.001" });
        for (int d = 0; d < Devices; d++)
        {
            // Five outputs hear the hub and an address of their own, and tell their states under others: ten times 2,000 of them.
            int at = 0;
            records.Add(new BusDevice
            {
                Id = new($"d{d}"),
                Name = $"Device {d}",
                PlaceId = new("room"),
                DescriptionId = "switch-12",
                LineId = new($"l{d % Lines}"),
                Number = 1 + (d / Lines),
                Joins = [.. objects.Take(10).Select(o => new ObjectJoin(o, o.EndsWith(".switch", StringComparison.Ordinal) ? [new RecordId($"g{(d * 10) + at++}"), Hub] : [new RecordId($"g{(d * 10) + at++}")]))],
            });
        }
        return Project.Load(0, records.Select(r => new Entry(r, 0)));
    });

    [Fact]
    public void Every_device_and_address_is_found_by_what_it_is()
    {
        Project project = Large.Value;
        Assert.Equal((Devices, Groups + 1), (project.All<BusDevice>().Count(), project.All<GroupAddress>().Count()));
        foreach (int d in (int[])[0, 999, 1999])
        {
            BusDevice device = project.Find<BusDevice>(new($"d{d}"))!;
            Assert.Equal(device, BusDevice.At(project, device.AddressIn(project)!.Value));
        }
        // By hand: 2,000 devices of 12 mA on 48 lines are 41 or 42 each; nothing feeds them.
        Assert.Equal(42, project.Sum(new("l0"), BusLine.Count));
        Assert.Equal(41, project.Sum(new("l47"), BusLine.Count));
        Assert.Contains(RecordKinds.Of(project.Find(new("l0"))!).Check(project, project.Find(new("l0"))!), f => f.Code == "line-supply");
    }

    // The hub is heard by ten thousand objects: whoever looks for a way back from it gives up in time, and what it finds elsewhere stays right.
    [Fact]
    public void An_address_that_thousands_listen_to_leads_nobody_around_for_ever()
    {
        Project project = Large.Value;
        GroupAddress hub = project.Find<GroupAddress>(Hub)!;
        Assert.Equal(10_000, hub.JoinedIn(project).Count());
        Assert.Null(TelegramCircle.From(project, hub));
        Assert.DoesNotContain(RecordKinds.Of(hub).Check(project, hub), f => f.Code == "group-circle");
        // One of its listeners tells its state to the hub: others hear it and go no further, and itself it does not hear. With a second one it comes back.
        Edit Tells(string id)
        {
            BusDevice device = project.Find<BusDevice>(new(id))!;
            return Edit.Of(device.With(device.Joins.First(j => j.Object.EndsWith(".state", StringComparison.Ordinal)).Object, [Hub]), 0);
        }
        Project With(params string[] ids) => Changes.Apply(project, new ChangeSet([.. ids.Select(Tells)], "engineer", 0, "x")).After!;
        Assert.Null(TelegramCircle.From(With("d0"), hub));
        Assert.NotNull(TelegramCircle.From(With("d0", "d1"), hub));
    }

    // An edit of one device looks again at what it touches, not at two thousand.
    [Fact]
    public void An_edit_of_one_device_asks_for_few_findings_anew()
    {
        Project project = Large.Value;
        FindingsIndex before = FindingsIndex.Full(project);
        BusDevice device = project.Find<BusDevice>(new("d7"))!;
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(device.With(device.ValuesIn(project)!.Form.Find("output1.function")!, "disabled"), 0)], "engineer", 0, "x"));
        FindingsIndex after = before.After(project, outcome.After!, outcome.Entry!.Changes.Select(c => c.Id));
        Assert.Contains(after.On(device.Id), f => f.Code == "bus-hidden-join");
        // What was worked out step by step is what all of it comes to.
        Assert.Equal(FindingsIndex.Full(outcome.After!).Count, after.Count);
    }

    [Fact]
    public void Rooms_are_furnished_where_twenty_thousand_addresses_are_taken()
    {
        Project project = Large.Value;
        var edits = new List<Edit>
        {
            Edit.Of(new Place { Id = new("model"), Name = "Studio 1", Kind = PlaceKind.Room, In = new("ground") }, 0),
            Edit.Of(new BusLine { Id = new("new-line"), Name = "Studios", Area = 5, Line = 1, LengthMetres = 100 }, 0),
            Edit.Of(new BusDevice { Id = new("button"), Name = "Button", PlaceId = new("model"), DescriptionId = "button-4", LineId = new("new-line"), Number = 1 }, 0),
            Edit.Of(new BusDevice { Id = new("lamp"), Name = "Lamp actuator", PlaceId = new("model"), DescriptionId = "switch-4", LineId = new("new-line"), Number = 2 }, 0),
        };
        for (int i = 2; i <= 40; i++) edits.Add(Edit.Of(new Place { Id = new($"studio-{i}"), Name = $"Studio {i}", Kind = PlaceKind.Room, In = new("ground") }, 0));
        project = Changes.Apply(project, new ChangeSet(edits, "engineer", 0, "x")).After!;
        project = Changes.Apply(project, new ChangeSet(Joining.Of(project, new Conversation { Id = new("talk"), Name = "Studio 1 lamp", PlaceId = new("model"), Kind = "lamp", Channels = [new(new("button"), "button1"), new(new("lamp"), "output1")] }).Edits, "engineer", 0, "x")).After!;
        var links = new Dictionary<RecordId, RecordId>();
        Furnished plan = Furnishing.Plan(project, Capture.Of(project, new("model"), "room", "Studio 1", [], links), [.. Enumerable.Range(2, 39).Select(i => new RecordId($"studio-{i}"))], links);
        Assert.Empty(plan.Refusals);
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(plan.Edits, "engineer", 0, "x"));
        Assert.True(outcome.Accepted, string.Join(' ', outcome.Refusals.Select(r => r.Sentence).Take(3)));
        // 39 rooms of two devices each, a switch and a state; no address twice.
        Assert.Equal(Devices + 80, outcome.After!.All<BusDevice>().Count());
        Assert.Equal(Groups + 1 + 80, outcome.After!.All<GroupAddress>().Select(g => g.Number).Distinct().Count());
        Assert.Equal(80, outcome.After!.Sum(new("new-line"), BusLine.Count));
    }
}
