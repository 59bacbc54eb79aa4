using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Search;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Search;

public class FinderTests
{
    private readonly Finder _finder = new();

    public FinderTests() => _finder.Fill(Project());

    [Theory]
    [InlineData("fan extract")]
    [InlineData("EXTRACT fan")]
    [InlineData("extr kiln fan")]
    public void Words_match_in_any_order_over_name_and_place(string query) => Assert.Contains(_finder.Find(Project(), query), h => h.Id == FanCommand);

    [Fact]
    public void A_name_that_begins_with_the_word_comes_first() => Assert.Equal(Building, _finder.Find(Project(), "kiln house")[0].Id);

    [Fact]
    public void A_word_that_nothing_has_finds_nothing() => Assert.Empty(_finder.Find(Project(), "kiln zeppelin"));

    [Fact]
    public void It_follows_edits()
    {
        Project before = Project();
        ChangeOutcome outcome = Changes.Apply(before, new ChangeSet([Edit.Of(before.Find<Place>(Room)! with { Name = "Zeppelin hall" })], "engineer", 0));
        _finder.Follow(outcome.Entry!.Changes);
        Assert.Equal(Room, _finder.Find(outcome.After!, "zeppelin")[0].Id);
        ChangeOutcome gone = Changes.Apply(outcome.After!, new ChangeSet(Removal.Of(outcome.After!, [Room]).Edits, "engineer", 0));
        _finder.Follow(gone.Entry!.Changes);
        Assert.Empty(_finder.Find(gone.After!, "zeppelin"));
    }

    [Fact]
    public void Sorts_of_record_can_be_asked_for()
    {
        Assert.Equal([Room], _finder.Find(Project(), "kiln", nouns: ["room"]).Select(h => h.Id));
        Assert.Equal([Controller], _finder.Find(Project(), "kh", nouns: ["controller", "schedule"]).Select(h => h.Id));
        Assert.Empty(_finder.Find(Project(), "kiln", nouns: ["schedule"]));
    }

    [Fact]
    public void The_room_says_more_than_the_building()
    {
        // All three fans are in Kiln House; “kiln fan” means the kiln room's.
        Project project = Accept(Project(),
            new Place { Id = new("glaze"), Name = "Glaze store", Kind = PlaceKind.Room, In = Floor },
            new Equipment { Id = new("glaze-eq"), Name = "Extract", Kind = "extract fan", PlaceId = new("glaze") },
            new Point { Id = new("a-fan"), Name = "Extract fan", OwnerId = new("glaze"), Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"], Fallback = 0 },
            new Point { Id = new("b-fan"), Name = "Extract fan", OwnerId = new("glaze-eq"), Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"], Fallback = 0 });
        _finder.Fill(project);
        Assert.Equal(FanCommand, _finder.Find(project, "kiln fan", nouns: ["point"])[0].Id);
        Assert.Equal([new("a-fan"), new("b-fan")], _finder.Find(project, "fan glaze", nouns: ["point"]).Select(h => h.Id).Order());
    }
}
