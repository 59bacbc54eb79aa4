using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Sequences.Ledger;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>What is found of a sequence as a program, each with a case in which it is and one in which it is not.</summary>
public class SequenceCheckTests
{
    private static readonly Point
        A = new() { Id = new("a"), Name = "A", OwnerId = KilnRoom.Fan, Kind = PointKind.Binary, Role = PointRole.Sensor, StateTexts = ["off", "on"] },
        B = new() { Id = new("b"), Name = "B", OwnerId = KilnRoom.Fan, Kind = PointKind.Binary, Role = PointRole.Sensor, StateTexts = ["off", "on"] },
        Setpoint = new() { Id = new("s"), Name = "Setpoint", OwnerId = KilnRoom.Fan, Kind = PointKind.Analog, Role = PointRole.Setpoint, Unit = "°C", Low = 5, High = 30 },
        Measured = new() { Id = new("m"), Name = "Measured", OwnerId = KilnRoom.Fan, Kind = PointKind.Analog, Role = PointRole.Sensor, Unit = "°C", Low = 5, High = 30 },
        Output = new() { Id = new("o"), Name = "Fan", OwnerId = KilnRoom.Fan, Kind = PointKind.Binary, Role = PointRole.Command, StateTexts = ["off", "on"] };

    private static readonly Project Site = KilnRoom.Accept(KilnRoom.Project(), A, B, Setpoint, Measured, Output);

    private static Sequence Written(string text)
    {
        var (sequence, problems) = LedgerReader.Read(Site, new Sequence { Id = new("seq"), Name = "checked", EquipmentId = KilnRoom.Fan }, text);
        Assert.Empty(problems);
        return sequence;
    }

    private static List<string> Found(string code, string text) => [.. SequenceChecks.On(Site, Written(text)).Where(f => f.Code == code).Select(f => f.What + " " + f.Why)];

    [Theory]
    [InlineData("X = A and off\nFan ← 10: X", "‘X’ can only ever be off")]
    [InlineData("X = A or on\nFan ← 10: X", "‘X’ can only ever be on")]
    [InlineData("X = not on\nFan ← 10: X", "‘X’ can only ever be off")]
    // The setpoint is brought within 5 to 30 °C; 100 °F are 37.8 °C.
    [InlineData("X = Setpoint > 100 °F\nFan ← 10: X", "‘X’ can only ever be off")]
    [InlineData("X = Setpoint ≥ 5 °C\nFan ← 10: X", "‘X’ can only ever be on")]
    [InlineData("X = 3 < 2\nY = X or A\nFan ← 10: Y", "‘X’ can only ever be off")]
    public void A_condition_that_never_changes_is_found(string text, string says) => Assert.Contains(Found("constant", text), f => f.Contains(says, StringComparison.Ordinal));

    [Theory]
    [InlineData("X = A and B\nFan ← 10: X")]
    // A sensor may measure anything, whatever its limits.
    [InlineData("X = Measured > 100 °C\nFan ← 10: X")]
    [InlineData("X = Setpoint > 29 °C\nFan ← 10: X")]
    // What remembers may change although its input does not.
    [InlineData("X = On-delay (in: on)\nFan ← 10: X")]
    public void One_that_may_change_is_not(string text) => Assert.Empty(Found("constant", text));

    [Fact]
    public void Logic_that_leads_to_no_output_is_found_through_other_logic()
    {
        var found = Found("unused-block", "X = not A\nY = not X\nZ = not B\nFan ← 10: Z");
        Assert.StartsWith("Nothing reads ‘Y’.", Assert.Single(found), StringComparison.Ordinal);
        // A chain of three hundred is one finding, at its end; a ring, which has none, one at its first block.
        var chain = Found("unused-block", $"X0 = not A\n{string.Join('\n', Enumerable.Range(1, 299).Select(i => $"X{i} = not X{i - 1}"))}\nZ = not B\nFan ← 10: Z");
        Assert.StartsWith("Nothing reads ‘X299’.", Assert.Single(chain), StringComparison.Ordinal);
        Assert.StartsWith("‘P’ leads to no output.", Assert.Single(Found("unused-block", "P = On-delay (in: Q)\nQ = not P\nZ = not B\nFan ← 10: Z")), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("  One: F = on\n  Two: F = off", "mode-unreachable", "Nothing brings it")]
    [InlineData("  One: when Never; F = on\n  Two: F = off", "mode-unreachable", "always off")]
    [InlineData("  One: when A; F = on\n  Two: when A; comes after 5 s; F = on\n  Three: F = off", "mode-unreachable", "the very same condition")]
    [InlineData("  One: when A; from Two; F = on\n  Two: when B; from One; F = on\n  Three: F = off", "mode-unreachable", "comes only from Two")]
    [InlineData("  One: when Always; F = on\n  Two: F = off", "mode-endless", "no way out of One")]
    [InlineData("  One: when A; F = on\n  Two: ", "mode-open", "does not say what F is in Two")]
    [InlineData("  One: when A; F = on\n  Two: F = released", "mode-undefined", "‘Fan’ has no value in Two")]
    public void What_is_wrong_with_modes_is_found(string rows, string code, string says) =>
        Assert.Contains(Found(code, $"Never = A and off\nAlways = A or on\nM = Mode table (F)\n{rows}\nFan ← 10: M · F"), f => f.Contains(says, StringComparison.Ordinal));

    [Fact]
    public void Sound_modes_have_nothing_to_find()
    {
        string[] codes = ["mode-unreachable", "mode-endless", "mode-open", "mode-undefined", "constant", "unused-block"];
        var found = SequenceChecks.On(Site, Written("M = Mode table (F)\n  Wait: begins after power return; at least 60 s; F = off\n  One: when A; comes after 5 s; F = on\n  Two: when A; F = on\n  Three: when B; at most 60 s; from Two; F = on\n  Four: F = off\nFan ← 10: M · F"));
        Assert.Empty(found.Where(f => codes.Contains(f.Code)).Select(f => f.What));
    }

    [Fact]
    public void Clauses_without_a_test_and_logic_without_a_clause_are_found()
    {
        Sequence sequence = Written("X = not A\nY = not B\nFan ← 10: X\nFan ← 12: Y") with { Clauses = [new Clause { Id = "c", Text = "What X is for.", Blocks = ["x"] }] };
        var found = SequenceChecks.On(Site, sequence).Select(f => f.What).ToList();
        Assert.Contains("No test proves clause 1 of ‘checked’.", found);
        Assert.Contains("No clause of ‘checked’ asks for ‘Y’.", found);
        // What feeds logic that is asked for is asked for with it, and an output brings all behind it.
        Sequence whole = sequence with { Clauses = [new Clause { Id = "c", Text = "What the fan is for.", Outputs = [Output.Id] }], Tests = [new FunctionTest { Id = "t", Name = "t", Clauses = ["c"] }] };
        Assert.DoesNotContain(SequenceChecks.On(Site, whole), f => f.Code is "unasked" or "clause-unproven");
    }

    [Fact]
    public void What_is_broken_on_purpose_is_noticed_by_a_test_that_looks_and_by_no_other()
    {
        Sequence sequence = Written("X = Two-position (measured: Measured, limit: 20 °C; differential: 2 K)\nFan ← 10: X");
        FunctionTest Test(string text) => new() { Id = "t", Name = "t", Steps = TestText.Read(text, new SubjectNames(Site, sequence)).Steps };
        Sequence strict = sequence with { Tests = [Test("set Measured to 19 °C\nexpect X released\nset Measured to 20.5 °C\nexpect X on\nset Measured to 18.5 °C\nexpect X on\nset Measured to 17.5 °C\nexpect X released")] };
        var ways = Breaking.Ways(Site, strict).ToList();
        Assert.Contains(ways, w => w.What == "differential 4 in place of 2");
        Assert.Equal(ways.Where(w => w.What.StartsWith("without claim", StringComparison.Ordinal)), ways.Where(w => Breaking.CaughtBy(Site, w) is null));
        Sequence blind = sequence with { Tests = [Test("set Measured to 30 °C\nexpect Measured above 20 °C")] };
        Assert.All(Breaking.Ways(Site, blind), w => Assert.Null(Breaking.CaughtBy(Site, w)));
    }

    [Theory]
    [InlineData("a b c", "a b c", " a b c")]
    [InlineData("a b c", "a x c", " a -b +x c")]
    [InlineData("", "a", "+a")]
    [InlineData("a b", "b", "-a b")]
    [InlineData("a b a", "b a b", "-a b a +b")]
    public void Lines_are_compared_by_what_they_have_in_common(string first, string second, string says)
    {
        static string[] Split(string t) => t.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        var diff = LineDiff.Of(Split(first), Split(second));
        Assert.Equal(Split(says), diff.Select(d => $"{(d.Second is null ? "-" : d.First is null ? "+" : "")}{d.Text}"));
        Assert.Equal(Split(first), diff.Where(d => d.First is not null).Select(d => d.Text));
        Assert.Equal(Split(second), diff.Where(d => d.Second is not null).Select(d => d.Text));
    }

    [Fact]
    public void Texts_that_are_far_apart_are_told_as_gone_and_come()
    {
        string[] first = ["same", .. Enumerable.Range(0, 3000).Select(n => $"a{n}"), "end"], second = ["same", .. Enumerable.Range(0, 3000).Select(n => $"b{n}"), "end"];
        var diff = LineDiff.Of(first, second);
        Assert.Equal(first, diff.Where(d => d.First is not null).OrderBy(d => d.First).Select(d => d.Text));
        Assert.Equal(second, diff.Where(d => d.Second is not null).OrderBy(d => d.Second).Select(d => d.Text));
        Assert.Equal((3002, 3002), (diff[^1].First!.Value, diff[^1].Second!.Value));
    }

    [Theory]
    [InlineData("X = Two-po", "Two-position (")]
    [InlineData("X = Two-position (meas", "measured: ")]
    [InlineData("X = Two-position (measured: Measured; acts: on f", "on fall")]
    [InlineData("X = not Meas", "Measured")]
    [InlineData("X = A and ", "B")]
    [InlineData("X = keep for at l", "Minimum on and off (")]
    [InlineData("Fa", "Fan ← ")]
    [InlineData("  One: un", "until ")]
    public void What_could_be_written_is_offered(string line, string offer) =>
        Assert.Contains(LedgerCompletion.Of(Site, Written("Fan ←"), line, line.Length), o => o.Insert == offer);

    [Theory]
    [InlineData("One.\n\nTwo.", "One.|Two.")]
    [InlineData("1. The fan runs\n   in opening hours.\n2. It stops.\n\n\n", "The fan runs in opening hours.|It stops.")]
    [InlineData("3.2.1 Frost\na) opens the valve;\nb) shuts the damper.\r\n- At 5 °C.", "Frost|opens the valve;|shuts the damper.|At 5 °C.")]
    [InlineData("At 5 °C it opens.\n12.5 K are too many.", "At 5 °C it opens. 12.5 K are too many.")]
    [InlineData("  \n \n", "")]
    public void A_specification_is_split_into_its_paragraphs(string text, string says) => Assert.Equal(says.Split('|', StringSplitOptions.RemoveEmptyEntries), Clause.Split(text));

    [Fact]
    public void A_paragraph_that_is_too_long_is_parted_at_a_sentence_and_loses_nothing()
    {
        string text = string.Join(' ', Enumerable.Range(1, 200).Select(n => $"Sentence {n} says something."));
        var parts = Clause.Split(text);
        Assert.All(parts, p => Assert.InRange(p.Length, 1, Clause.MostText));
        Assert.All(parts, p => Assert.EndsWith(".", p));
        Assert.Equal(text, string.Join(' ', parts));
        Assert.Equal(2500, Clause.Split(new string('x', 2500)).Sum(p => p.Length));
    }
}
