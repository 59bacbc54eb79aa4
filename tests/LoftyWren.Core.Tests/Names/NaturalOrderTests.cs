using LoftyWren.Core.Names;

namespace LoftyWren.Core.Tests.Names;

public class NaturalOrderTests
{
    [Fact]
    public void Runs_of_digits_count_as_numbers_and_case_does_not() => Assert.Equal(
        ["", "9", "10", "Fan-coil 1", "fan-coil 2", "Fan-coil 10", "Fan-coil 10a", "Room", "Room 2", "Room 02.1", "Room 2.3", "Room 12"],
        new[] { "Room 12", "Room 02.1", "Fan-coil 10", "10", "Room 2", "fan-coil 2", "Room", "Room 2.3", "Fan-coil 10a", "", "Fan-coil 1", "9" }.Order(NaturalOrder.Names));

    /// <summary>The laws of an order, on random names made of few letters, digits and zeros so that ties and near ties abound; numbers may be longer than any integer type.</summary>
    [Fact]
    public void It_is_a_total_order()
    {
        var random = new Random(23);
        string Name() => string.Concat(Enumerable.Range(0, random.Next(0, 7)).Select(_ => "aAbB 0019."[random.Next(10)])) + (random.Next(9) == 0 ? new string('7', 40) : "");
        string[] names = [.. Enumerable.Range(0, 150).Select(_ => Name()).Distinct()];
        foreach (string a in names)
        {
            Assert.Equal(0, NaturalOrder.Names.Compare(a, a));
            foreach (string b in names)
            {
                int ab = Math.Sign(NaturalOrder.Names.Compare(a, b));
                Assert.Equal(-ab, Math.Sign(NaturalOrder.Names.Compare(b, a)));
                Assert.True(a == b || ab != 0, $"‘{a}’ and ‘{b}’ have no order");
                foreach (string c in names.Where((_, i) => i % 7 == 0))
                    Assert.False(ab < 0 && NaturalOrder.Names.Compare(b, c) < 0 && NaturalOrder.Names.Compare(a, c) >= 0, $"‘{a}’ < ‘{b}’ < ‘{c}’, but not ‘{a}’ < ‘{c}’");
            }
        }
        Assert.Equal(-1, NaturalOrder.Names.Compare(null, ""));
    }
}
