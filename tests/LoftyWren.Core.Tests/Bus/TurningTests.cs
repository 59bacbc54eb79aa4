using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Points;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>What is under an address and the value of a point, turned into each other.</summary>
public class TurningTests
{
    private static Point Of(params string[] states) => new() { Id = new("p"), Name = "P", OwnerId = new("o"), Kind = PointKind.Multistate, Role = PointRole.Command, StateTexts = states };

    // KNX 03_07_02: 20.102 is 0 auto, 1 comfort, 2 standby, 3 economy, 4 building protection; 20.111 0 not running, 1 permanently
    // running, 2 running in intervals; 5.100 counts fan stages from 0; 17.001 scenes from 0.
    [Theory]
    [InlineData("20.102", "auto · comfort · standby · economy · building protection", "0 1 2 3 4")]
    [InlineData("20.102", "Building protection · Economy · Comfort", "4 3 1")]
    [InlineData("20.102", "by clock · people · pause · night · away", "0 1 2 3 4")]
    [InlineData("20.102", "people · pause · night", null)]
    [InlineData("20.111", "running in intervals · not running", "2 0")]
    [InlineData("5.100", "off · low · middle · high", "0 1 2 3")]
    [InlineData("5.010", "off · on · auto", "0 1 2")]
    [InlineData("17.001", "bright · film", "0 1")]
    [InlineData("1.001", "off · on", null)]
    [InlineData("9.001", "cold · warm", null)]
    [InlineData("5.001", "cold · warm", null)]
    [InlineData("3.007", "darker · brighter", null)]
    [InlineData("16.000", "a · b", null)]
    public void A_state_stands_for_the_count_of_its_text_or_of_its_place(string type, string states, string? counts)
    {
        Point point = Of(states.Split(" · "));
        var turning = Turning.Of(DatapointType.Find(type)!, point);
        Assert.Equal(counts, turning is null ? null : string.Join(' ', point.StateTexts.Select((_, i) => turning.FromPoint(i + 1))));
    }

    /// <summary>Of every type that takes states: what is said is heard as the same state, each state says something else, and what is said is what the datapoint can carry.</summary>
    [Fact]
    public void What_is_said_is_heard_as_the_same()
    {
        int met = 0;
        foreach (DatapointType type in DatapointType.All.Where(t => t.IsSingle && !t.IsText))
        {
            string[] texts = type.Fields[0].Texts is { } named ? [.. named.OrderByDescending(n => n.Key).Select(n => n.Value)] : ["a", "b", "c", "d"];
            if (texts.Length > 64 || Turning.Of(type, Of(texts)) is not { } turning) continue;
            met++;
            byte[] octets = new byte[type.Octets];
            double[] said = [.. Enumerable.Range(1, texts.Length).Select(i => turning.FromPoint(i))];
            Assert.Distinct(said);
            for (int i = 0; i < said.Length; i++)
            {
                Assert.Null(type.Encode([said[i]], octets));
                Assert.Equal(i + 1, turning.ToPoint(type.ToNumber(octets)));
            }
            Assert.Equal(double.NaN, turning.ToPoint(250.5));
            Assert.Equal(double.NaN, turning.FromPoint(0));
            Assert.Equal(double.NaN, turning.FromPoint(texts.Length + 1));
        }
        Assert.InRange(met, 35, 80);
    }

    // 20 °C are 68 °F (defining points of both scales: 0 °C = 32 °F, 100 °C = 212 °F).
    [Fact]
    public void Numbers_are_turned_by_their_units()
    {
        var fahrenheit = Turning.Of(DatapointType.Find("9.001")!, Of() with { Kind = PointKind.Analog, Unit = "°F" })!;
        Assert.Equal(68, fahrenheit.ToPoint(20), 9);
        Assert.Equal(100, fahrenheit.FromPoint(212), 9);
        Assert.Null(Turning.Of(DatapointType.Find("9.001")!, Of() with { Kind = PointKind.Analog, Unit = "Pa" }));
    }
}
