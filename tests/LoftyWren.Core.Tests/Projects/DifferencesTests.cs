using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Projects;

public class DifferencesTests
{
    private static readonly Project Before = KilnRoom.Project();

    private static IReadOnlyList<RecordDifference> After(params Edit[] edits) => Differences.Between(Before, Accept(Before, edits));

    [Fact]
    public void A_state_does_not_differ_from_itself_nor_from_an_equal_one()
    {
        Assert.Empty(Differences.Between(Before, Before));
        Assert.Empty(Differences.Between(Before, KilnRoom.Project()));
    }

    [Fact]
    public void A_changed_field_is_told_with_both_values_and_references_by_name()
    {
        var difference = Assert.Single(After(Edit.Of(Before.Find<Place>(Room)! with { AreaSquareMetres = 64.5, ShortName = "KR" })));
        Assert.Equal((DifferenceKind.Changed, "room", "Kiln room", "Kiln House › First floor"), (difference.Kind, difference.Noun, difference.Name, difference.Path));
        Assert.Equal([new FieldDifference("areaSquareMetres", "area in m²", "60", "64.5"), new FieldDifference("shortName", "short name", null, "KR")], difference.Fields.OrderBy(f => f.Field));
        var moved = Assert.Single(After(Edit.Of(Before.Find<Point>(Limit)! with { OwnerId = Room })));
        Assert.Equal([new FieldDifference("ownerId", "belongs to", "Extract", "Kiln room")], moved.Fields);
    }

    [Fact]
    public void What_comes_and_goes_is_told_once_and_undone_the_other_way_round()
    {
        Project after = Accept(Before, [Edit.Of(new Place { Id = new("loft"), Name = "Loft", Kind = PlaceKind.Room, In = Floor }), Edit.Removing(new("f1"))]);
        Assert.Equal([(DifferenceKind.Added, "loft"), (DifferenceKind.Removed, "f1")], Differences.Between(Before, after).Select(d => (d.Kind, d.Id.Value)).OrderBy(d => d.Kind));
        Assert.Equal([(DifferenceKind.Added, "f1"), (DifferenceKind.Removed, "loft")], Differences.Between(after, Before).Select(d => (d.Kind, d.Id.Value)).OrderBy(d => d.Kind));
    }

    [Fact]
    public void A_block_put_before_another_does_not_make_the_other_differ()
    {
        Sequence sequence = Before.Find<Sequence>(KilnRoom.Sequence)!;
        var difference = Assert.Single(After(Edit.Of(sequence with { Blocks = [new Block { Id = "first", Kind = BlockKind.Not }, .. sequence.Blocks] })));
        Assert.All(difference.Fields, f => Assert.StartsWith("blocks › first", f.Words));
    }

    [Fact]
    public void A_source_that_leads_elsewhere_is_told_by_the_names_of_both()
    {
        Sequence sequence = Before.Find<Sequence>(KilnRoom.Sequence)!;
        Block high = sequence.Blocks[0];
        Sequence turned = sequence with { Blocks = [high with { Inputs = new Dictionary<string, Source> { ["measured"] = new PointSource(Limit), ["limit"] = high.Inputs["limit"] } }] };
        FieldDifference field = Assert.Single(Differences.Fields(sequence, turned, Before.Find));
        Assert.Equal(("blocks › high › inputs › measured › point", "Room temperature", "High limit"), (field.Words, field.Before, field.After));
    }

    [Fact]
    public void A_conflict_says_where_the_two_versions_differ()
    {
        Schedule hours = Before.Find<Schedule>(Hours)!;
        Project theirs = Accept(Before, hours with { Name = "Open" });
        ChangeOutcome outcome = Changes.Apply(theirs, new ChangeSet([Edit.Of(hours with { Default = 1 }, Before.FindEntry(Hours)!.Revision)], "engineer", 0));
        Assert.Equal([new FieldDifference("default", "default", "0", "1"), new FieldDifference("name", "name", "Open", "Opening hours")], Assert.Single(outcome.Conflicts).Fields.OrderBy(f => f.Field));
    }

    [Fact]
    public void Words_are_those_that_a_field_declares_else_made_of_its_name()
    {
        Point sensor = Before.Find<Point>(Temperature)!;
        Assert.Equal(["belongs to", "compared with", "state texts"], new[] { "ownerId", "setpointId", "stateTexts" }.Select(f => Differences.Words(sensor, f)));
        Assert.Equal(["when full", "setpoint"], new[] { "whenFull", "setpointId" }.Select(Differences.Words));
    }
}

public class PastTests
{
    /// <summary>Any chain of edits, taken back from the journal to any point, gives the project of that point; and the edits towards it bring it back.</summary>
    [Fact]
    public void The_journal_leads_back_to_every_state_and_the_edits_towards_it_restore_it()
    {
        var random = new Random(11);
        for (int round = 0; round < 20; round++)
        {
            Project project = KilnRoom.Project();
            var states = new List<Project> { project };
            var journal = new List<JournalEntry>();
            for (int i = 0; i < 15; i++)
            {
                ChangeOutcome outcome = Changes.Apply(project, new ChangeSet(RandomEdits.Next(project, random), "engineer", 0));
                if (outcome.After is null) continue;
                project = outcome.After;
                states.Add(project);
                journal.Insert(0, outcome.Entry!);
            }
            foreach (Project state in states)
            {
                Project past = Differences.Before(project, state.Revision, journal.Where(e => e.Revision > state.Revision).SelectMany(e => e.Changes));
                Assert.Empty(Differences.Between(past, state));
                Assert.Equal(state.Revision, past.Revision);
                Assert.All(state.Records, r => Assert.Equal(state.FindEntry(r.Id)!.Revision, past.FindEntry(r.Id)!.Revision));
                if (Differences.Between(project, state).Count == 0) continue;
                ChangeOutcome back = Changes.Apply(project, new ChangeSet(Differences.Towards(project, state), "engineer", 0));
                Assert.True(back.Accepted, string.Join(" ", back.Refusals.Select(r => r.Sentence)));
                Assert.Empty(Differences.Between(back.After!, state));
            }
        }
    }
}
