using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Trends;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Commissioning;

/// <summary>What runs taken over into the project: all of it, and the design is what runs; some of it, and only that.</summary>
public class TakeOverTests
{
    private static readonly TrendLog Log = new() { Id = new("log"), Name = "Room temperature", PointId = Temperature };

    private static ControllerImage Image(Project project) => ControllerImage.Build(project, project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!);

    private static T Find<T>(Project project, RecordId id) where T : ProjectRecord => project.Find<T>(id)!;

    /// <summary>The design as it is now, and as something else was sent before it.</summary>
    public static TheoryData<string> Ways => new("changed", "added", "removed", "renamed", "mixed");

    private static (Project Design, Project Sent) Pair(string way)
    {
        Project sent = Project();
        Point limit = Find<Point>(sent, Limit);
        Project changed = Accept(sent, limit with { Fallback = 27 });
        return way switch
        {
            "changed" => (changed, sent),
            "added" => (Accept(sent, Log), sent),
            "removed" => (sent, Accept(sent, Log)),
            "renamed" => (Accept(sent, Find<Point>(sent, Temperature) with { Name = "Air temperature" }), sent),
            _ => (Accept(changed, Log, Find<Schedule>(changed, Hours) with { Default = 1 }), Project(differential: 1.5)),
        };
    }

    [Theory]
    [MemberData(nameof(Ways))]
    public void Taken_over_whole_the_design_is_what_runs(string way)
    {
        var (design, sent) = Pair(way);
        ControllerImage runs = Image(sent);
        Assert.NotEmpty(ImageComparison.Compare(runs, Image(design)));
        Project after = Accept(design, [.. TakeOver.Edits(design, design.Find(KilnRoom.Controller)!, runs, null)]);
        Assert.Empty(ImageComparison.Compare(runs, Image(after)));
        Assert.Equal(runs.ToBytes(), Image(after).ToBytes());
    }

    [Fact]
    public void Taken_over_singly_only_that_is_another()
    {
        var (design, sent) = Pair("mixed");
        ControllerImage runs = Image(sent);
        ProjectRecord host = design.Find(KilnRoom.Controller)!;
        var lines = TakeOver.Lines(design, host, runs);
        Assert.Equal(["fan-seq: becomes in the project what runs", "high-limit: becomes in the project what runs", "hours: becomes in the project what runs", "log: goes from the project: it does not run there"], lines.Select(l => $"{l.Difference.Id}: {l.Does}").Order(StringComparer.Ordinal));
        Project after = Accept(design, [.. TakeOver.Edits(design, host, runs, new HashSet<RecordId> { Limit })]);
        Assert.Equal(Find<Point>(sent, Limit).Fallback, Find<Point>(after, Limit).Fallback);
        Assert.Equal(3, ImageComparison.Compare(runs, Image(after)).Count);
    }

    [Fact]
    public void What_no_controller_carries_stays_as_designed()
    {
        Project sent = Project();
        Point limit = Find<Point>(sent, Limit);
        Sequence sequence = Find<Sequence>(sent, KilnRoom.Sequence);
        var tags = new Dictionary<string, string> { ["note"] = "\"kept\"" };
        Project design = Accept(sent, limit with { Fallback = 27, Tags = tags }, sequence with { Name = "Fan", Clauses = [new Clause { Id = "c1", Text = "The fan shall run above the limit." }] });
        Project after = Accept(design, [.. TakeOver.Edits(design, design.Find(KilnRoom.Controller)!, Image(sent), null)]);
        Assert.NotNull(Find<Point>(after, Limit).Tags);
        Assert.Single(Find<Sequence>(after, KilnRoom.Sequence).Clauses);
        Assert.Equal(sequence.Name, Find<Sequence>(after, KilnRoom.Sequence).Name);
    }
}
