using System.Globalization;
using System.Text.RegularExpressions;

namespace LoftyWren.Server.Tests;

/// <summary>Text on its background, in both themes: at least 4.5 to 1, the AA of WCAG 2.2 (1.4.3), by its formula of relative luminance.</summary>
public class ContrastTests
{
    private static readonly string Css = File.ReadAllText(Path.Combine(DemoServer.Root(), "client/src/shared/tokens.css"));

    public static TheoryData<string, string, string> Pairs()
    {
        var pairs = new TheoryData<string, string, string>();
        foreach (string theme in (string[])["light", "dark"])
        {
            foreach (string ground in (string[])["paper", "sheet", "sunk", "plum-soft", "moss-soft", "amber-soft", "crimson-soft", "sky-soft", "ember-soft"])
            {
                pairs.Add(theme, "ink", ground);
                pairs.Add(theme, "ink-2", ground);
            }
            foreach (string accent in (string[])["plum", "moss", "amber", "crimson", "sky", "ember"])
            {
                foreach (string ground in (string[])["paper", "sheet", "sunk", $"{accent}-soft"]) pairs.Add(theme, accent, ground);
            }
            pairs.Add(theme, "ink", "cold");
            pairs.Add(theme, "ink", "warm");
            pairs.Add(theme, "on-russet", "russet");
            pairs.Add(theme, "on-bar", "bar");
            pairs.Add(theme, "on-bar", "bar-2");
        }
        return pairs;
    }

    [Theory]
    [MemberData(nameof(Pairs))]
    public void Text_can_be_read(string theme, string text, string ground)
    {
        double ratio = Ratio(Colour(theme, text), Colour(theme, ground));
        Assert.True(ratio >= 4.5, $"{theme}: {text} on {ground} is {ratio:0.00} to 1.");
    }

    /// <summary>Black on white is 21 to 1 and a colour on itself 1 to 1, as WCAG says of its formula.</summary>
    [Fact]
    public void The_formula_is_that_of_the_standard()
    {
        Assert.Equal(21, Ratio("#000000", "#ffffff"), 1e-9);
        Assert.Equal(1, Ratio("#855300", "#855300"), 1e-9);
    }

    private static string Colour(string theme, string name)
    {
        int dark = Css.IndexOf("[data-theme='dark']", StringComparison.Ordinal);
        string own = theme == "dark" ? Css[dark..] : Css[..dark];
        Match match = Token(name).Match(own) is { Success: true } found ? found : Token(name).Match(Css);
        Assert.True(match.Success, $"There is no colour --{name}.");
        return match.Groups[1].Value;
    }

    private static Regex Token(string name) => new($@"--{name}: (#[0-9a-f]{{6}});");

    private static double Ratio(string a, string b)
    {
        double[] both = [Luminance(a), Luminance(b)];
        return (both.Max() + 0.05) / (both.Min() + 0.05);
    }

    private static double Luminance(string colour)
    {
        double Channel(int at)
        {
            double c = int.Parse(colour.AsSpan(at, 2), NumberStyles.HexNumber, CultureInfo.InvariantCulture) / 255.0;
            return c <= 0.04045 ? c / 12.92 : Math.Pow((c + 0.055) / 1.055, 2.4);
        }
        return (0.2126 * Channel(1)) + (0.7152 * Channel(3)) + (0.0722 * Channel(5));
    }
}
