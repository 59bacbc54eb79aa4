using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tests.Projects;

/// <summary>The way from an empty project to a room under control ticks itself.</summary>
public class FirstStepsTests
{
    private static IEnumerable<string> Done(Project project, bool runs = false) => FirstSteps.Of(project, runs).Where(s => s.IsDone).Select(s => s.Key);

    [Fact]
    public void Nothing_is_done_at_first_and_each_step_as_soon_as_the_project_shows_it()
    {
        Assert.Empty(Done(Project.Empty));
        RecordId site = RecordId.New("site"), building = RecordId.New("b"), floor = RecordId.New("f"), room = RecordId.New("r");
        Project project = Project.Empty;
        void Put(ProjectRecord record)
        {
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(record, 0)], "engineer", 0));
            Assert.True(outcome.Accepted, string.Join(' ', outcome.Refusals.Select(r => r.Sentence)));
            project = outcome.After!;
        }
        Put(new Place { Id = site, Name = "Site", Kind = PlaceKind.Site, TimeZone = "Europe/London" });
        Put(new Place { Id = building, Name = "House", Kind = PlaceKind.Building, In = site });
        Put(new Place { Id = floor, Name = "Ground", Kind = PlaceKind.Floor, In = building });
        Assert.Empty(Done(project));
        Put(new Place { Id = room, Name = "Room", Kind = PlaceKind.Room, In = floor });
        Assert.Equal(["building"], Done(project));
        Put(new Point { Id = RecordId.New("p"), Name = "Temperature", OwnerId = room, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C" });
        Assert.Equal(["building", "points"], Done(project));
        Assert.Equal(["building", "points", "send"], Done(project, runs: true));
    }
}
