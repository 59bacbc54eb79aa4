using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Tests.Places;

public class OutlinesTests
{
    private static readonly Corner[] Rectangle = [new(0, 0), new(10, 0), new(10, 7), new(0, 7)];

    // An L of two arms, each 2 m wide and 10 m long: 36 m².
    private static readonly Corner[] L = [new(0, 0), new(2, 0), new(2, 8), new(10, 8), new(10, 10), new(0, 10)];

    [Fact]
    public void Area_by_hand()
    {
        Assert.Equal(70, Outlines.Area(Rectangle), 1e-9);
        Assert.Equal(36, Outlines.Area(L), 1e-9);
        Assert.Equal(36, Outlines.Area([.. L.Reverse()]), 1e-9);
    }

    [Fact]
    public void Inside_and_outside()
    {
        Assert.True(Outlines.Contains(L, 1, 5));
        Assert.False(Outlines.Contains(L, 5, 5));
    }

    [Fact]
    public void The_visual_centre_of_a_rectangle_is_its_middle_line_and_of_an_L_its_elbow()
    {
        Corner centre = Outlines.VisualCentre(Rectangle);
        Assert.Equal(3.5, centre.Y, 0.06);
        Assert.InRange(centre.X, 3.4, 6.6);
        // The largest circle in the L sits in the elbow, at about (1.17, 8.83): its radius 2 × (2 − √2) m = 1.17 m.
        Corner elbow = Outlines.VisualCentre(L);
        Assert.Equal(1.17, Outlines.SignedDistance(L, elbow.X, elbow.Y), 0.06);
        Assert.True(Outlines.Contains(L, elbow.X, elbow.Y));
        Assert.True(elbow.X < 2 && elbow.Y > 8);
    }

    [Fact]
    public void The_visual_centre_is_always_inside()
    {
        var random = new Random(3);
        for (int i = 0; i < 200; i++)
        {
            int n = random.Next(3, 12);
            // A star around the origin is a simple polygon, convex or not.
            var star = Enumerable.Range(0, n).Select(k => (Angle: 2 * Math.PI * k / n, Radius: 1 + (random.NextDouble() * 9))).Select(p => new Corner(p.Radius * Math.Cos(p.Angle), p.Radius * Math.Sin(p.Angle))).ToList();
            if (Outlines.Area(star) < 1) continue;
            Corner centre = Outlines.VisualCentre(star);
            Assert.True(Outlines.SignedDistance(star, centre.X, centre.Y) > 0);
        }
    }

    /// <summary>The worst floors: many rooms, cupboards, halls, rooms that tell no area. All are taken as proposed, none lies on another, and each has its area as far as tenths of a metre let it.</summary>
    [Theory]
    [InlineData(3, 20.0, null, 70.0)]
    [InlineData(2000, 100.0, 12.0, null)]
    [InlineData(300, 0.1, 0.2, 1.0)]
    [InlineData(12, 1_000_000.0, 600.0, 0.3)]
    public void Proposed_outlines_can_be_taken_and_do_not_overlap(int count, double? first, double? second, double? third)
    {
        double?[] areas = [first, second, third];
        Place drawn = Room("drawn", 36) with { Outline = [new(0, 0), new(12.53, 0), new(12.53, 3)] };
        Place[] rooms = [drawn, .. Enumerable.Range(0, count).Select(i => Room($"r{i}", areas[i % 3]))];
        var proposed = Outlines.Propose(rooms);
        Assert.Equal(count, proposed.Count);
        Project project = KilnRoom.Accept(KilnRoom.Project(), [.. proposed]);
        foreach (Place room in proposed)
        {
            double area = room.AreaSquareMetres ?? 20;
            // By hand: half a tenth on the longer side, and never less than 0.4 m on a side.
            double most = Math.Max(0.17, area + (0.05 * (room.Outline.Max(c => c.Y) - room.Outline.Min(c => c.Y))) + 0.01);
            Assert.InRange(Outlines.Area(project.Find<Place>(room.Id)!.Outline), Math.Min(area, area - (0.05 * (room.Outline.Max(c => c.Y) - room.Outline.Min(c => c.Y))) - 0.01), most);
        }
        var boxes = proposed.Select(r => (W: r.Outline.Min(c => c.X), E: r.Outline.Max(c => c.X), N: r.Outline.Min(c => c.Y), S: r.Outline.Max(c => c.Y))).OrderBy(b => b.N).ToList();
        Assert.All(boxes, b => Assert.True(b.W >= 12.53));
        for (int i = 0; i < boxes.Count; i++)
        {
            for (int j = i + 1; j < boxes.Count && boxes[j].N < boxes[i].S - 1e-6; j++) Assert.True(boxes[j].W > boxes[i].E - 1e-6 || boxes[i].W > boxes[j].E - 1e-6);
        }
    }

    private static Place Room(string id, double? area) => new() { Id = new(id), Name = $"Room {id}", Kind = PlaceKind.Room, In = KilnRoom.Floor, AreaSquareMetres = area };
}
