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
    public void Words_are_made_of_field_names() => Assert.Equal(["when full", "belongs to", "setpoint"], new[] { "whenFull", "ownerId", "setpointId" }.Select(Differences.Words));
}
