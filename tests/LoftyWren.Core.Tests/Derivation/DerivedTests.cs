using LoftyWren.Core.Derivation;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Tests.Projects;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Derivation;

/// <summary>A derivation runs again where it asked for something that changed, and nowhere else.</summary>
public class DerivedTests
{
    private static ChangeOutcome Do(Project project, params Edit[] edits)
    {
        ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(edits, "engineer", 0));
        Assert.True(outcome.Accepted, string.Join(" ", outcome.Refusals.Select(r => r.Sentence)));
        return outcome;
    }

    private static IEnumerable<(ProjectRecord?, ProjectRecord?)> Of(ChangeOutcome outcome) => outcome.Entry!.Changes.Select(c => (c.Before, c.After));

    /// <summary>The name of what a point belongs to.</summary>
    private static bool Owner(Project project, ProjectRecord record, out string value)
    {
        value = record is Point point ? project.Find(point.OwnerId)?.Name ?? "" : "";
        return record is Point;
    }

    /// <summary>How many sequences read or command a point.</summary>
    private static bool Users(Project project, ProjectRecord record, out string value)
    {
        value = $"{project.Referrers<Sequence>(record.Id).Count()}";
        return record is Point;
    }

    /// <summary>The host of a point.</summary>
    private static bool Host(Project project, ProjectRecord record, out string value)
    {
        value = project.BindingOf(record.Id)?.Say(project) ?? "none";
        return record is Point;
    }

    /// <summary>What a controller's memory has to hold.</summary>
    private static bool Load(Project project, ProjectRecord record, out string value)
    {
        value = record is Controller controller ? $"{ControllerMemory.Of(project, controller)}" : "";
        return record is Controller;
    }

    /// <summary>What adds up, added up anew record by record: at each hub what is added there, and what is added at the points that live on it.</summary>
    private static IEnumerable<(RecordId Hub, SumSort Of, long Amount)> Added(Project project)
    {
        var shares = project.Records.SelectMany(r => r.Shares()).ToList();
        var lives = project.Records.OfType<PointBinding>().ToDictionary(b => b.PointId, b => b.HostId);
        return shares.Concat(shares.Where(s => lives.ContainsKey(s.Hub)).Select(s => s with { Hub = lives[s.Hub] }))
            .GroupBy(s => (s.Hub, s.Of), (at, all) => (at.Hub, at.Of, all.Sum(s => s.Amount))).OrderBy(x => x.Hub).ThenBy(x => x.Of.Name);
    }

    [Fact]
    public void Under_a_hub_of_a_thousand_what_adds_up_is_adjusted_not_added_up()
    {
        Records.Hatch Hatch(int i, double width) => new() { Id = new($"h{i}"), Name = $"Hatch {i}", OwnerId = Room, Address = i, WidthMetres = width };
        Project project = Accept(KilnRoom.Project(), [.. Enumerable.Range(1, 999).Select(i => Hatch(i, 0.5))]);
        int asked = 0;
        bool Glass(Project p, ProjectRecord record, out string value)
        {
            asked++;
            value = record is Place ? $"{p.Sum(record.Id, Records.Hatch.Glass)}" : "";
            return record is Place;
        }
        var sums = Derived<string>.Full(project, Glass);
        Assert.Equal("499500", sums[Room]);
        asked = 0;
        // One is widened and another goes to the floor: the room has 499.5 + 0.7 − 0.5 m, and three are computed: both hatches and the places that asked for what they add to.
        ChangeOutcome outcome = Do(project, Edit.Of(Hatch(7, 1.2)), Edit.Of(Hatch(9, 0.5) with { OwnerId = Floor }));
        (sums, var computed) = sums.After(outcome.After!, Of(outcome), Glass);
        Assert.Equal(("499700", "500"), (sums[Room], sums[Floor]));
        Assert.Equal([new("first"), new("h7"), new("h9"), Room], computed.Order());
        Assert.Equal(4, asked);
        Assert.Equal(Added(outcome.After!), outcome.After!.AllSums.OrderBy(x => x.Hub).ThenBy(x => x.Of.Name));
    }

    /// <summary>Logs count at the controller on which their point lives: with the point they move, and a log that comes or goes while its point moves counts once.</summary>
    [Fact]
    public void What_adds_up_at_a_point_goes_with_the_point()
    {
        Core.Trends.TrendLog log = new() { Id = new("log"), Name = "Log", PointId = Limit, BufferSize = 300 };
        Project project = Accept(KilnRoom.Project(), log);
        Controller one = project.Find<Controller>(KilnRoom.Controller)!, other = one with { Id = new("other"), Name = "Other", DeviceInstance = 2999 };
        project = Accept(project, other);
        var loads = Derived<string>.Full(project, Load);
        ControllerMemory Of1(Project p) => ControllerMemory.Of(p, one)!;
        ControllerMemory before = Of1(project);
        Fitting fitting = project.Referrers<Fitting>(Limit).Single();
        ChangeOutcome moved = Do(project, Edit.Of(fitting with { ControllerId = other.Id }), Edit.Of(log with { BufferSize = 700 }));
        Assert.Equal((before.Values - 1, before.Samples - 300), (Of1(moved.After!).Values, Of1(moved.After!).Samples));
        Assert.Equal((1, 700L), (ControllerMemory.Of(moved.After!, other)!.Values, ControllerMemory.Of(moved.After!, other)!.Samples));
        (loads, _) = loads.After(moved.After!, Of(moved), Load);
        Assert.Equal(Derived<string>.Full(moved.After!, Load).Values.OrderBy(v => v.Key), loads.Values.OrderBy(v => v.Key));
        // The log goes while its point comes back.
        ChangeOutcome back = Do(moved.After!, Edit.Of(fitting), Edit.Removing(log.Id));
        Assert.Equal((before.Values, before.Samples - 300), (Of1(back.After!).Values, Of1(back.After!).Samples));
        (loads, _) = loads.After(back.After!, Of(back), Load);
        Assert.Equal(Derived<string>.Full(back.After!, Load).Values.OrderBy(v => v.Key), loads.Values.OrderBy(v => v.Key));
        Assert.Equal(Added(back.After!), back.After!.AllSums.OrderBy(x => x.Hub).ThenBy(x => x.Of.Name));
    }

    [Fact]
    public void What_a_computation_asked_for_decides_when_it_runs_again()
    {
        Project project = KilnRoom.Project();
        var owners = Derived<string>.Full(project, Owner);
        Assert.Equal("Extract", owners[FanCommand]);
        // Renaming the fan touches its two points; the room's sensor asked for the room.
        ChangeOutcome renamed = Do(project, Edit.Of(project.Find(Fan)! with { Name = "Exhaust" }));
        (owners, var computed) = owners.After(renamed.After!, Of(renamed), Owner);
        Assert.Equal(new HashSet<RecordId> { Fan, FanCommand, Limit }, computed.ToHashSet());
        Assert.Equal(("Exhaust", "Kiln room"), (owners[FanCommand], owners[Temperature]));
        // A point that comes is computed, one that goes is gone.
        ChangeOutcome more = Do(renamed.After!, Edit.Of(new Point { Id = new("new"), Name = "New", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Value }));
        (owners, _) = owners.After(more.After!, Of(more), Owner);
        Assert.Equal("Kiln room", owners[new("new")]);
        ChangeOutcome less = Do(more.After!, Edit.Removing(new("new")));
        (owners, _) = owners.After(less.After!, Of(less), Owner);
        Assert.Null(owners[new("new")]);
    }

    [Fact]
    public void Referrers_and_keys_count_as_asked_for_though_there_was_nothing()
    {
        Project project = KilnRoom.Project();
        Point lone = new() { Id = new("lone"), Name = "Lone", OwnerId = Room, Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"], Fallback = 0 };
        project = Accept(project, lone);
        var users = Derived<string>.Full(project, Users);
        var hosts = Derived<string>.Full(project, Host);
        Sequence sequence = project.Find<Sequence>(KilnRoom.Sequence)!;
        ChangeOutcome used = Do(project, Edit.Of(sequence with { Commands = [.. sequence.Commands, new OutputCommand { PointId = lone.Id }] }));
        (users, _) = users.After(used.After!, Of(used), Users);
        Assert.Equal("1", users[lone.Id]);
        Assert.Equal("none", hosts[lone.Id]);
        ChangeOutcome fitted = Do(used.After!, Edit.Of(new Fitting { Id = new("f9"), Name = "RO2", ControllerId = KilnRoom.Controller, PointId = lone.Id, Terminal = "RO2", Signal = Core.Signals.Signal.Relay }));
        (hosts, var computed) = hosts.After(fitted.After!, Of(used).Concat(Of(fitted)), Host);
        Assert.Equal("KH-C1 · RO2", hosts[lone.Id]);
        Assert.DoesNotContain(FanCommand, computed.Except([KilnRoom.Sequence]));
    }

    [Fact]
    public void Under_a_hub_of_ten_thousand_an_edit_computes_what_it_touches()
    {
        Project project = Accept(KilnRoom.Project(), [.. Enumerable.Range(0, 10_000).Select(i => (ProjectRecord)new Point { Id = new($"s{i}"), Name = $"Sensor {i}", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C", SetpointId = Limit })]);
        var owners = Derived<string>.Full(project, Owner);
        var tags = TagIndex.Full(project);
        ChangeOutcome one = Do(project, Edit.Of(project.Find<Point>(new("s77"))! with { Low = -20 }));
        (_, var computed) = owners.After(one.After!, Of(one), Owner);
        Assert.Equal([new("s77")], computed);
        Assert.Equal([new("s77")], tags.After(one.After!, one.Entry!.Changes).Derived);
        // What the hub says itself is everybody's concern, and no more than that.
        ChangeOutcome hub = Do(one.After!, Edit.Of(one.After!.Find<Place>(Room)! with { Name = "Hall" }));
        (var after, computed) = owners.After(one.After!, Of(one), Owner);
        (after, computed) = after.After(hub.After!, Of(hub), Owner);
        Assert.Equal(10_002, computed.Count);
        Assert.Equal("Hall", after[new("s9999")]);
    }

    [Fact]
    public void Two_who_go_on_from_the_same_state_are_both_right()
    {
        Project project = KilnRoom.Project();
        var from = Derived<string>.Full(project, Owner);
        ChangeOutcome a = Do(project, Edit.Of(project.Find(Fan)! with { Name = "A" })), b = Do(project, Edit.Of(project.Find(Room)! with { Name = "B" }));
        var (one, _) = from.After(a.After!, Of(a), Owner);
        var (other, _) = from.After(b.After!, Of(b), Owner);
        Assert.Equal(("A", "Kiln room"), (one[FanCommand], one[Temperature]));
        Assert.Equal(("Extract", "B"), (other[FanCommand], other[Temperature]));
    }

    [Fact]
    public void After_any_edits_all_that_is_derived_is_as_if_computed_afresh()
    {
        for (int seed = 0; seed < 12; seed++)
        {
            var random = new Random(seed);
            Project project = Accept(KilnRoom.Project(), new Records.Hatch { Id = new("hatch"), Name = "Hatch", OwnerId = Room, Address = 1, Opens = [Temperature] });
            var owners = Derived<string>.Full(project, Owner);
            var users = Derived<string>.Full(project, Users);
            var hosts = Derived<string>.Full(project, Host);
            var loads = Derived<string>.Full(project, Load);
            TagIndex tags = TagIndex.Full(project);
            var images = new Remembered<string>();
            string Image(Project p) => p.All<Controller>().FirstOrDefault() is { } controller ? HostKinds.HashOf(ControllerImage.Build(p, controller).ToBytes()) : "";
            for (int i = 0; i < 60; i++)
            {
                ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(RandomEdits.Next(project, random), "engineer", 0));
                if (outcome.After is not { } after) continue;
                (owners, _) = owners.After(after, Of(outcome), Owner);
                (users, _) = users.After(after, Of(outcome), Users);
                (hosts, _) = hosts.After(after, Of(outcome), Host);
                (loads, _) = loads.After(after, Of(outcome), Load);
                TagIndex tagged = tags;
                tags = tags.After(after, outcome.Entry!.Changes);
                var others = tagged.All.Select(t => t.Key).Union(tags.All.Select(t => t.Key)).Where(id => !tagged[id].SameAs(tags[id])).Order();
                Assert.Equal(others, tags.Retagged.Order());
                images.Follow(after, outcome.Entry.Changes);
                project = after;
                Assert.Equal(Derived<string>.Full(project, Owner).Values.OrderBy(v => v.Key), owners.Values.OrderBy(v => v.Key));
                Assert.Equal(Derived<string>.Full(project, Users).Values.OrderBy(v => v.Key), users.Values.OrderBy(v => v.Key));
                Assert.Equal(Derived<string>.Full(project, Host).Values.OrderBy(v => v.Key), hosts.Values.OrderBy(v => v.Key));
                Assert.Equal(Derived<string>.Full(project, Load).Values.OrderBy(v => v.Key), loads.Values.OrderBy(v => v.Key));
                Assert.Equal(Added(project), project.AllSums.OrderBy(x => x.Hub).ThenBy(x => x.Of.Name));
                Assert.Equal(TagIndex.Full(project).All.OrderBy(t => t.Key).Select(t => (t.Key, string.Join(' ', t.Value))), tags.All.OrderBy(t => t.Key).Select(t => (t.Key, string.Join(' ', t.Value))));
                string hash = images.TryGet(KilnRoom.Controller, out string? known) ? known : images.Compute(project, KilnRoom.Controller, Image);
                Assert.Equal(Image(project), hash);
            }
        }
    }
}
