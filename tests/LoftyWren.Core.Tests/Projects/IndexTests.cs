using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Projects;

/// <summary>A project keeps its indexes edit by edit; they must be those of the same records taken in anew.</summary>
public class IndexTests
{
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void After_any_edits_the_indexes_are_those_of_the_same_records_taken_in_anew(int seed)
    {
        var random = new Random(seed);
        Project project = KilnRoom.Project();
        int accepted = 0;
        for (int i = 0; i < 250; i++)
        {
            if (Changes.Apply(project, new ChangeSet(RandomEdits.Next(project, random), "engineer", 0)).After is not { } after) continue;
            project = after;
            accepted++;
            if (project.Site is null || project.Find(Room) is null) project = KilnRoom.Project();
            if (i % 10 == 0) Same(Core.Projects.Project.Load(project.Revision, project.Records.Select(r => project.FindEntry(r.Id)!)), project);
        }
        Assert.True(accepted > 80, $"Only {accepted} edits were accepted; the test would prove little.");
    }

    [Fact]
    public void A_thousand_records_in_one_change_set_come_to_the_same_as_one_by_one()
    {
        Edit[] edits = [.. Enumerable.Range(0, 1000).Select(i => Edit.Of(new Point { Id = new($"p{i}"), Name = $"Probe {i}", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C", SetpointId = i % 3 == 0 ? Limit : null }))];
        Project at_once = Accept(KilnRoom.Project(), edits), one_by_one = KilnRoom.Project();
        foreach (Edit edit in edits) one_by_one = Accept(one_by_one, edit);
        Same(one_by_one, at_once);
        Assert.Equal(334, at_once.Referrers<Point>(Limit).Count());
        // And out again: nothing of them is left in any index.
        Same(KilnRoom.Project(), Accept(at_once, [.. edits.Select(e => Edit.Removing(e.Put!.Id))]));
    }

    [Fact]
    public void A_record_that_leads_elsewhere_is_found_there_and_no_longer_where_it_was()
    {
        Project project = KilnRoom.Project();
        Sequence sequence = project.Find<Sequence>(KilnRoom.Sequence)!;
        Project moved = Accept(project, sequence with { ControllerId = null });
        Assert.DoesNotContain(sequence.Id, moved.Referrers(Controller).Select(r => r.Id));
        Assert.Contains(sequence.Id, moved.Referrers(Fan).Select(r => r.Id));
        Assert.Empty(Accept(moved, Edit.Removing(sequence.Id)).All<Sequence>());
    }

    private static void Same(Project expected, Project actual)
    {
        Assert.Equal(expected.Records.Select(RecordJson.Write).Order(StringComparer.Ordinal), actual.Records.Select(RecordJson.Write).Order(StringComparer.Ordinal));
        foreach (ProjectRecord record in expected.Records)
        {
            Assert.Equal(expected.Referrers(record.Id).Select(r => r.Id).Order(), actual.Referrers(record.Id).Select(r => r.Id).Order());
            Assert.All(record.UniqueKeys(), k => Assert.Equal(expected.Holder(k.Key), actual.Holder(k.Key)));
        }
        Assert.Equal(expected.All<Point>().Select(p => p.Id).Order(), actual.All<Point>().Select(p => p.Id).Order());
        Assert.Equal(expected.All<Sequence>().Select(p => p.Id).Order(), actual.All<Sequence>().Select(p => p.Id).Order());
        Assert.Equal(expected.Count, actual.Count);
    }
}
