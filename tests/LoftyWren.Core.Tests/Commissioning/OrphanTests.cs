using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Trends;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Commissioning;

/// <summary>What is left over after a send, and what a controller has that the project does not know.</summary>
public class OrphanTests
{
    private static readonly TrendLog Log = new() { Id = new("log"), Name = "Room temperature", PointId = Temperature };

    private static Dictionary<RecordId, IHostImage?> Runs(Project project) => new() { [KilnRoom.Controller] = ControllerImage.Build(project, project.Find<Controller>(KilnRoom.Controller)!) };

    private static IReadOnlyList<Orphan> Of(Project project, Project sent, RecordId[]? logs = null, string[]? alarms = null, HeldInput[]? held = null, string[]? connections = null) =>
        Orphans.Of(project, Runs(sent), (logs ?? []).Select(l => (l, (string?)"Room temperature")), (alarms ?? []).Select(a => new OpenAlarm(new(a), a)), held ?? [], (connections ?? []).Select(c => new RecordId(c)));

    [Fact]
    public void A_log_is_left_over_once_neither_the_project_nor_a_controller_has_it()
    {
        Project without = Project(), with = Accept(without, Log);
        Assert.Empty(Of(with, with, logs: [Log.Id]));
        // Removed from the project, not sent yet: the controller still keeps it. Added and not sent yet: the project has it.
        Assert.Empty(Of(without, with, logs: [Log.Id]));
        Assert.Empty(Of(with, without, logs: [Log.Id]));
        Orphan left = Assert.Single(Of(without, without, logs: [Log.Id]));
        Assert.Equal(("log|log", OrphanSort.Log), (left.Key, left.Sort));
    }

    [Fact]
    public void Open_alarms_holds_connections_and_devices_that_nothing_knows_are_left_over()
    {
        Project project = Project();
        Assert.Equal(["alarm|gone", "connection|kh-c9", "hold|kh-c1|UI7"], Of(project, project, alarms: ["gone"], held: [new(KilnRoom.Controller, "UI1"), new(KilnRoom.Controller, "UI7")], connections: ["kh-c1", "kh-c9"]).Select(o => o.Key).Order(StringComparer.Ordinal));
        Project gone = Accept(project, [.. Removal.Of(project, [KilnRoom.Controller]).Edits]);
        Orphan device = Assert.Single(Orphans.Of(gone, Runs(project), [], [], [], []));
        Assert.Equal(("device|kh-c1", "KH-C1"), (device.Key, device.Name));
    }

    [Fact]
    public void What_a_controller_has_and_the_project_does_not_know_is_taken_in_or_taken_for_another()
    {
        Project sent = Project();
        var fan = sent.Find<Point>(FanCommand)!;
        Project project = Accept(sent, [.. Removal.Of(sent, [FanCommand]).Edits]);
        var unknown = Orphans.Unknown(project, Runs(sent));
        UnknownRecord point = unknown.Single(u => u.Noun == "point");
        Assert.Equal(("Extract fan", "RO1", null), (point.Name, point.Terminal, point.Refusal));
        IHostImage image = Runs(sent)[KilnRoom.Controller]!;
        Project back = Accept(project, [.. TakeOver.Edits(project, project.Find(KilnRoom.Controller)!, image, unknown.Select(u => u.Id).ToHashSet())]);
        Assert.Empty(Orphans.Unknown(back, Runs(sent)));
        Assert.Equal("RO1", ((Fitting)back.BindingOf(FanCommand)!).Terminal);
        // The same terminal, known by the project's own point.
        Project own = Accept(project, fan with { Id = new("own-fan"), Name = "Hood fan" });
        Project mapped = Accept(own, [.. Orphans.Mapped(own, KilnRoom.Controller, image, FanCommand, new("own-fan"))]);
        Assert.Equal("RO1", ((Fitting)mapped.BindingOf(new("own-fan"))!).Terminal);
        Assert.Contains("same kind", Assert.Throws<InvalidOperationException>(() => Orphans.Mapped(own, KilnRoom.Controller, image, Temperature, new("own-fan"))).Message, StringComparison.Ordinal);
        Assert.Contains("is on KH-C1 UI1 already", Assert.Throws<InvalidOperationException>(() => Orphans.Mapped(sent, KilnRoom.Controller, image, Temperature, Temperature)).Message, StringComparison.Ordinal);
    }
}
