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
            TagIndex tags = TagIndex.Full(project);
            var images = new Remembered<string>();
            string Image(Project p) => p.All<Controller>().FirstOrDefault() is { } controller ? ControllerImage.HashOf(ControllerImage.Build(p, controller).ToBytes()) : "";
            for (int i = 0; i < 60; i++)
            {
                ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(RandomEdits.Next(project, random), "engineer", 0));
                if (outcome.After is not { } after) continue;
                (owners, _) = owners.After(after, Of(outcome), Owner);
                (users, _) = users.After(after, Of(outcome), Users);
                (hosts, _) = hosts.After(after, Of(outcome), Host);
                tags = tags.After(after, outcome.Entry!.Changes);
                images.Follow(outcome.Entry.Changes);
                project = after;
                Assert.Equal(Derived<string>.Full(project, Owner).Values.OrderBy(v => v.Key), owners.Values.OrderBy(v => v.Key));
                Assert.Equal(Derived<string>.Full(project, Users).Values.OrderBy(v => v.Key), users.Values.OrderBy(v => v.Key));
                Assert.Equal(Derived<string>.Full(project, Host).Values.OrderBy(v => v.Key), hosts.Values.OrderBy(v => v.Key));
                Assert.Equal(TagIndex.Full(project).All.OrderBy(t => t.Key).Select(t => (t.Key, string.Join(' ', t.Value))), tags.All.OrderBy(t => t.Key).Select(t => (t.Key, string.Join(' ', t.Value))));
                string hash = images.TryGet(KilnRoom.Controller, out string? known) ? known : images.Compute(project, KilnRoom.Controller, Image);
                Assert.Equal(Image(project), hash);
            }
        }
    }
}
