using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.PointLists;

public class IoSummaryTests
{
    /// <summary>Counted by hand: room temperature is AI, the fan BO, the high limit a value; a window contact and a valve are added without a panel.</summary>
    private static readonly Project House = Accept(KilnRoom.Project(),
        new Point { Id = new("win"), Name = "Window", OwnerId = Room, Kind = PointKind.Binary, Role = PointRole.Sensor, StateTexts = ["closed", "open"] },
        new Point { Id = new("vlv"), Name = "Valve", OwnerId = Fan, Kind = PointKind.Analog, Role = PointRole.Command, Unit = "%", Fallback = 0 });

    [Fact]
    public void Points_are_counted_by_panel()
    {
        IoSummary summary = IoSummary.Of(House, SummaryBy.Panel, 20);
        Assert.Equal(["KH-C1", "no panel yet"], summary.Lines.Select(l => l.Group));
        Assert.Equal(new IoCounts(1, 0, 0, 1, 1), summary.Lines[0].Counts);
        Assert.Equal(("8 UI · 4 BI · 4 RO · 4 AO", null), (summary.Lines[0].BuiltIn, summary.Lines[0].Lacks));
        Assert.Equal(new IoCounts(0, 1, 1, 0, 0), summary.Lines[1].Counts);
        Assert.Equal(new IoCounts(1, 1, 1, 1, 1), summary.Total.Counts);
    }

    [Fact]
    public void Points_are_counted_by_place_and_by_kind_of_equipment()
    {
        Assert.Equal("Kiln House › First floor › Kiln room", Assert.Single(IoSummary.Of(House, SummaryBy.Room, 0).Lines).Group);
        Assert.Equal([("extract fan", 2), ("room itself", 2)], IoSummary.Of(House, SummaryBy.EquipmentKind, 0).Lines.Select(l => (l.Group, l.Counts.Terminals)));
    }

    [Theory]
    [InlineData(0, 0, 20)]
    [InlineData(1, 2, 20)]
    [InlineData(5, 6, 20)]
    [InlineData(10, 12, 20)]
    [InlineData(10, 11, 10)]
    [InlineData(7, 7, 0)]
    public void Spare_is_a_share_of_each_sort_rounded_up(int count, int with, int percent) =>
        Assert.Equal(new IoCounts(with, 0, 0, 0, 9), new IoCounts(count, 0, 0, 0, 9).WithSpare(percent));

    /// <summary>By hand, on 8 universal and 4 binary inputs, 4 relays and 4 analog outputs: the sorts are short one by one though 20 terminals would hold them all.</summary>
    [Theory]
    [InlineData(4, 4, 4, 4, null)]
    [InlineData(0, 0, 0, 5, "1 BO")]
    [InlineData(9, 0, 0, 0, "1 AI")]
    [InlineData(6, 7, 0, 0, "1 BI")]
    [InlineData(0, 12, 0, 0, null)]
    [InlineData(0, 0, 6, 5, "2 AO, 1 BO")]
    public void A_panel_lacks_what_no_terminal_of_its_sort_is_left_for(int analogIn, int binaryIn, int analogOut, int binaryOut, string? lacks) =>
        Assert.Equal(lacks, IoSummary.Lacks(new IoCounts(analogIn, binaryIn, analogOut, binaryOut, 0), Core.Hardware.Catalogue.Shipped.First(m => m.Id == "compact-20").Groups));

    [Fact]
    public void The_sheet_ends_with_the_total()
    {
        Sheet sheet = IoSummary.Of(House, SummaryBy.EquipmentKind, 50).ToSheet();
        Assert.Equal(["Of", "AI", "BI", "AO", "BO", "Values", "AI with 50 % spare", "BI with 50 % spare", "AO with 50 % spare", "BO with 50 % spare", "Built in", "Lacks"], sheet.Rows[0]);
        Assert.Equal(["Total", "1", "1", "1", "1", "1", "2", "2", "2", "2", "", ""], sheet.Rows[^1]);
    }
}
