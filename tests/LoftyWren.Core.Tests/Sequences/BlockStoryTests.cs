using LoftyWren.Core.Sequences;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>The chart in the help of each kind shows what it does.</summary>
public class BlockStoryTests
{
    public static TheoryData<BlockKind> Kinds() => [.. BlockType.All.Where(t => !t.IsRetired && !t.IsShell).Select(t => t.Kind)];

    private static BlockStory Of(BlockKind kind, params (string, double)[] numbers) => BlockStory.Of(new Block { Id = "b", Kind = kind, Numbers = numbers.ToDictionary(n => n.Item1, n => n.Item2) });

    private static StoryLine Line(BlockStory story, string pin) => story.Lines.First(l => l.Pin == pin && !l.IsInput);

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Something_happens_in_it(BlockKind kind)
    {
        BlockStory story = Of(kind);
        Assert.Equal(BlockType.Of(kind).Outputs.Count, story.Lines.Count(l => !l.IsInput));
        Assert.All(story.Lines, l => Assert.Equal(160, l.Values.Count));
        // While a controller is up its status stands still; what is released says so.
        if (kind != BlockKind.SystemStatus) Assert.Contains(story.Lines, l => !l.IsInput && l.Values.Distinct().Count() > 1);
        Assert.Contains(story.Lines, l => !l.IsInput && l.Values.Any(v => v is not null));
    }

    [Fact]
    public void It_is_lived_with_the_settings_of_the_block()
    {
        // The contact closes at 6 % of the time: a longer delay gives its output later, in a longer story.
        BlockStory shorter = Of(BlockKind.Ton, ("pt", 10)), longer = Of(BlockKind.Ton, ("pt", 600));
        Assert.Equal((60, 3300), (shorter.Seconds, longer.Seconds));
        int First(BlockStory story) => Line(story, "out").Values.ToList().FindIndex(v => v == 1);
        Assert.Equal((0.06 * 60) + 10, First(shorter) * 60 / 159.0, 0.8);
        Assert.Equal((0.06 * 3300) + 600, First(longer) * 3300 / 159.0, 45.0);
        Assert.InRange(Line(Of(BlockKind.Scale, ("outHigh", 200)), "out").Values.Max()!.Value, 198, 200);
    }

    [Fact]
    public void A_unit_that_does_not_go_with_the_example_does_not_empty_it() => Assert.NotEmpty(BlockStory.Of(new Block { Id = "b", Kind = BlockKind.Total, OutputUnit = "m³" }).Lines);
}
