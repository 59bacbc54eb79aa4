using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tests.Texts;

/// <summary>Lists of numbers, written by hand.</summary>
public sealed class NumberRunsTests
{
    [Theory]
    [InlineData(new int[0], "")]
    [InlineData(new[] { 4 }, "4")]
    [InlineData(new[] { 4, 5 }, "4, 5")]
    [InlineData(new[] { 6, 4, 5, 5 }, "4–6")]
    [InlineData(new[] { 1, 3, 4, 5, 9, 10 }, "1, 3–5, 9, 10")]
    public void Three_in_a_row_are_a_run(int[] numbers, string said) => Assert.Equal(said, NumberRuns.Said(numbers));

    [Fact]
    public void What_is_too_long_to_read_is_counted() => Assert.Equal("1, 3, 5–7 and 3 more", NumberRuns.Said([1, 3, 5, 6, 7, 9, 11, 13], 3));
}
