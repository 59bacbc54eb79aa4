using LoftyWren.Core.Names;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Tests.Projects;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.PointLists;

public class RecordOrderTests
{
    [Fact]
    public void Groups_hold_every_point_once_and_follow_one_another()
    {
        var random = new Random(3);
        Project project = KilnRoom.Project();
        for (int i = 0; i < 60; i++) project = Changes.Apply(project, new ChangeSet(RandomEdits.Next(project, random), "engineer", 0)).After ?? project;
        var all = RecordOrder.Points(project, Site).ToList();
        Assert.Equal(project.All<Point>().Select(p => p.Id).Order(), all.Select(p => p.Id).Order());
        foreach (string group in Point.AsKind.Groups.Select(g => g.Key))
        {
            var (ids, groups) = RecordOrder.Sort(project, Point.AsKind, all, "-name", group);
            Assert.Equal(all.Select(p => p.Id).Order(), ids.Order());
            int from = 0;
            foreach (RowGroup one in groups)
            {
                Assert.Equal(from, one.From);
                Assert.True(one.Count > 0);
                string[] names = [.. ids.Skip(from).Take(one.Count).Select(id => project.Find(id)!.Name)];
                Assert.Equal(names.OrderDescending(NaturalOrder.Names), names);
                from += one.Count;
            }
            Assert.Equal(ids.Length, from);
            Assert.Equal(groups.Count, groups.Select(g => g.Label).Distinct().Count());
        }
    }

    [Fact]
    public void Points_without_what_they_are_grouped_by_come_last()
    {
        var (ids, groups) = RecordOrder.Sort(KilnRoom.Project(), Point.AsKind, RecordOrder.Points(KilnRoom.Project(), Site), null, "equipmentKind");
        // By hand: two points of the extract fan, then the one that belongs to the room itself.
        Assert.Equal([new RowGroup("extract fan", 0, 2), new RowGroup("no equipment kind", 2, 1)], groups);
        Assert.Equal([FanCommand, Limit, Temperature], ids);
    }
}
