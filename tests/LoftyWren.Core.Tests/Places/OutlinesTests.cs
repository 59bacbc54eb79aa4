using LoftyWren.Core.Places;

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
}
