using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Projects;

public class ChangesTests
{
    private static ChangeOutcome Apply(Project project, params Edit[] edits) => Changes.Apply(project, new ChangeSet(edits, "engineer", 0));

    [Fact]
    public void An_edit_answers_another_project_and_leaves_the_old_one_as_it_was()
    {
        Project before = Project();
        Place room = before.Find<Place>(Room)!;
        Project after = Accept(before, room with { Name = "Kiln hall" });
        Assert.Equal("Kiln room", before.Find<Place>(Room)!.Name);
        Assert.Equal("Kiln hall", after.Find<Place>(Room)!.Name);
        Assert.Equal(before.Revision + 1, after.Revision);
        Assert.Equal(after.Revision, after.FindEntry(Room)!.Revision);
    }

    [Fact]
    public void Two_people_on_one_record_is_a_conflict_with_both_versions()
    {
        Project start = Project();
        Place room = start.Find<Place>(Room)!;
        long seen = start.FindEntry(Room)!.Revision;
        Project after = Accept(start, Edit.Of(room with { Name = "Theirs" }, seen));
        ChangeOutcome outcome = Apply(after, Edit.Of(room with { Name = "Yours" }, seen));
        Conflict conflict = Assert.Single(outcome.Conflicts);
        Assert.Equal(("Theirs", "Yours", after.Revision), (conflict.Theirs!.Name, conflict.Yours!.Name, conflict.TheirRevision));
        Assert.Single(Apply(after, Edit.Of(room with { Id = new("new") }, 7)).Conflicts);
    }

    [Fact]
    public void Undo_takes_back_exactly_and_redo_makes_it_again()
    {
        Project before = Project();
        ChangeOutcome edit = Apply(before, [.. Removal.Of(before, [Fan]).Edits]);
        Assert.True(edit.Accepted);
        var (back, refusals) = Changes.Inverse(edit.After!, edit.Entry!);
        Assert.Empty(refusals);
        ChangeOutcome undo = Apply(edit.After!, [.. back]);
        AssertSame(before, undo.After!);
        ChangeOutcome redo = Apply(undo.After!, [.. Changes.Inverse(undo.After!, undo.Entry!).Edits]);
        AssertSame(edit.After!, redo.After!);
    }

    [Fact]
    public void What_rests_on_later_changes_is_not_undone_and_they_are_named()
    {
        Project project = Project();
        Place room = project.Find<Place>(Room)!;
        ChangeOutcome first = Apply(project, Edit.Of(room with { Name = "Kiln hall" }));
        Project later = Accept(first.After!, room with { Name = "Kiln hall", AreaSquareMetres = 61 });
        var (edits, refusals) = Changes.Inverse(later, first.Entry!);
        Assert.Empty(edits);
        Assert.Equal($"The room ‘Kiln hall’ was changed again since, at revision {later.Revision}; undo that first.", Assert.Single(refusals).Sentence);
    }

    [Fact]
    public void Undoing_an_addition_that_others_use_by_now_is_refused()
    {
        Project project = Project();
        ChangeOutcome added = Apply(project, Edit.Of(new Place { Id = new("new-room"), Name = "New room", Kind = PlaceKind.Room, In = Floor }));
        Project used = Accept(added.After!, new Equipment { Id = new("e"), Name = "Fan", Kind = "extract fan", PlaceId = new("new-room") });
        ChangeOutcome undo = Apply(used, [.. Changes.Inverse(used, added.Entry!).Edits]);
        Assert.Contains("‘New room’ cannot go while equipment ‘Fan’ still uses it.", undo.Refusals.Select(r => r.Sentence));
    }

    [Fact]
    public void A_removal_takes_what_belongs_to_it_and_loosens_what_uses_it()
    {
        Project project = Project();
        Removal removal = Removal.Of(project, [Limit]);
        Assert.Equal(["f3", "high-limit"], removal.Gone.Select(r => r.Id.Value).Order());
        Assert.Equal([KilnRoom.Sequence], removal.Loosened.Select(r => r.Id));
        Project after = Accept(project, [.. removal.Edits]);
        Assert.False(after.Find<Sequence>(KilnRoom.Sequence)!.Blocks[0].Inputs.ContainsKey("limit"));
    }

    [Fact]
    public void Removing_the_building_empties_it_and_leaves_the_schedule_of_the_site()
    {
        Project after = Accept(Project(), [.. Removal.Of(Project(), [Building]).Edits]);
        Assert.Equal(["hours", "site"], after.Records.Select(r => r.Id.Value).Order());
        Assert.Empty(after.Find<Core.Schedules.Schedule>(Hours)!.Drives);
    }

    [Theory]
    [InlineData("Glaze room", "Renamed room ‘Kiln room’ to ‘Glaze room’")]
    public void Labels_read_like_sentences(string name, string label) => Assert.Equal(label, Apply(Project(), Edit.Of(Project().Find<Place>(Room)! with { Name = name })).Entry!.Label);

    [Fact]
    public void Labels_of_other_edits()
    {
        Project project = Project();
        Assert.Equal("Added room ‘Shop’ to ‘First floor’", Apply(project, Edit.Of(new Place { Id = new("shop"), Name = "Shop", Kind = PlaceKind.Room, In = Floor })).Entry!.Label);
        Assert.Equal("Removed equipment ‘Extract’ from ‘Kiln room’, with 5 records that belonged to it; changed schedule ‘Opening hours’", Apply(project, [.. Removal.Of(project, [Fan]).Edits]).Entry!.Label);
        Assert.Equal("Took ‘Room temperature’ off KH-C1 UI1", Apply(project, Edit.Removing(new("f1"))).Entry!.Label);
        Point[] points = [.. Enumerable.Range(1, 12).Select(i => new Point { Id = new($"n{i}"), Name = $"Point {i}", OwnerId = Room, Kind = PointKind.Analog, Role = PointRole.Value })];
        Assert.Equal("Added 12 points to ‘Kiln room’", Apply(project, [.. points.Select(p => Edit.Of(p))]).Entry!.Label);
    }

    [Fact]
    public void Siblings_need_different_names_and_may_swap_them_in_one_change()
    {
        Project project = Accept(Project(), new Place { Id = new("shop"), Name = "Shop", Kind = PlaceKind.Room, In = Floor });
        Place shop = project.Find<Place>(new("shop"))!, kiln = project.Find<Place>(Room)!;
        Assert.Contains("There is already a room called ‘Kiln room’ here. Choose another name.", Refused(project, Edit.Of(shop with { Name = "kiln ROOM" })).Select(r => r.Sentence));
        Project swapped = Accept(project, Edit.Of(shop with { Name = "Kiln room" }), Edit.Of(kiln with { Name = "Shop" }));
        Assert.Equal("Shop", swapped.Find<Place>(Room)!.Name);
    }

    [Fact]
    public void A_changed_unit_that_would_break_a_sequence_is_refused()
    {
        Point sensor = Project().Find<Point>(Temperature)!;
        Assert.Contains(Refused(Project(), Edit.Of(sensor with { Unit = "%RH" })), r => r.RecordId == KilnRoom.Sequence && r.Sentence.Contains("takes a relative humidity (%RH), not a temperature (°C)"));
    }

    [Theory]
    [InlineData("", "has no name")]
    [InlineData(" Kiln", "begins or ends with a space")]
    [InlineData("Kiln\nroom", "control character")]
    public void Names_that_cannot_be_are_refused(string name, string why) => Assert.Contains(Refused(Project(), Edit.Of(Project().Find<Place>(Room)! with { Name = name })), r => r.Sentence.Contains(why));

    [Fact]
    public void Places_nest_in_order_and_the_site_is_one()
    {
        Assert.Contains(Refused(Project(), Edit.Of(new Place { Id = new("x"), Name = "x", Kind = PlaceKind.Room, In = Building })), r => r.Sentence == "A room belongs in a floor, not in a building (‘Kiln House’).");
        Assert.Contains(Refused(Project(), Edit.Of(new Place { Id = new("x"), Name = "x", Kind = PlaceKind.Site, TimeZone = "Europe/London" })), r => r.Sentence.Contains("A project has one site"));
        Assert.Contains(Refused(Project(), Edit.Of(Project().Find<Place>(Site)! with { TimeZone = "Mars/Olympus" })), r => r.Sentence.Contains("is not a time zone"));
        Assert.Contains(Refused(Project(), Edit.Of(Project().Find<Place>(Room)! with { Outline = [new(0, 0), new(1, 1), new(2, 2)] })), r => r.Sentence.Contains("encloses no area"));
    }

    [Fact]
    public void Points_say_what_is_wrong_with_them()
    {
        Point sensor = Project().Find<Point>(Temperature)!, fan = Project().Find<Point>(FanCommand)!;
        void Refuses(Point point, string sentence) => Assert.Contains(Refused(Project(), Edit.Of(point)), r => r.Sentence.Contains(sentence));
        Refuses(sensor with { Unit = "parsec" }, "‘parsec’ is not a known unit");
        Refuses(sensor with { Fallback = 20 }, "is a sensor; only commands, setpoints and values have a fallback");
        Refuses(sensor with { Low = 5, High = 5 }, "is not below its high limit");
        Refuses(fan with { StateTexts = ["off"] }, "needs two state texts");
        Refuses(fan with { StateTexts = ["on", "On"] }, "have the same text");
        Refuses(fan with { Fallback = 2 }, "outside what the point can take");
        Refuses(fan with { Unit = "°C" }, "has no unit");
        Refuses(sensor with { SetpointId = FanCommand }, "do not measure the same quantity");
    }

    [Fact]
    public void An_edit_of_one_record_is_whole_or_nothing()
    {
        Place room = Project().Find<Place>(Room)!;
        Assert.Contains(Refused(Project(), Edit.Of(room), Edit.Removing(Room)), r => r.Sentence.Contains("edited twice"));
        Assert.Contains(Refused(Project(), Edit.Removing(new("nobody"))), r => r.Sentence.Contains("no longer in the project"));
        Assert.Contains(Refused(Project()), r => r.Sentence.Contains("nothing to change"));
        Assert.Contains(Refused(Project(), Edit.Of(new Equipment { Id = Room, Name = "x", Kind = "kiln", PlaceId = Floor })), r => r.Sentence.Contains("cannot become"));
    }

    [Fact]
    public void Any_run_of_edits_taken_back_in_turn_ends_where_it_began()
    {
        var random = new Random(11);
        for (int round = 0; round < 30; round++)
        {
            Project start = Project(), now = start;
            var done = new Stack<JournalEntry>();
            for (int i = 0; i < 12; i++)
            {
                Edit[] edits = RandomEdits.Next(now, random);
                ChangeOutcome outcome = Apply(now, edits);
                if (!outcome.Accepted) continue;
                now = outcome.After!;
                done.Push(outcome.Entry!);
            }
            while (done.TryPop(out JournalEntry? entry))
            {
                var (edits, refusals) = Changes.Inverse(now, entry);
                Assert.Empty(refusals);
                now = Accept(now, [.. edits]);
            }
            AssertSame(start, now);
        }
    }

    private static void AssertSame(Project a, Project b)
    {
        static IEnumerable<string> All(Project p) => p.Records.OrderBy(r => r.Id).Select(RecordJson.Write);
        Assert.Equal(All(a), All(b));
    }
}
