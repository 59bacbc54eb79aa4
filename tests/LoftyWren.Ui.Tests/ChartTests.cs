using System.Globalization;

namespace LoftyWren.Ui.Tests;

/// <summary>The chart of trends shows what is in the samples, on a server of its own, since it moves the clock.</summary>
public class ChartTests(DemoServer demo) : IClassFixture<DemoServer>
{
    // 55 °C for two minutes in a week of about 20 °C: each column of the chart stands for ten minutes, whose last value is not 55.
    [Fact]
    public void A_spike_of_two_minutes_is_seen_in_a_week()
    {
        using var browser = new Browser(demo.Running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open("/supervise/trends");
        browser.SeeText("h1", "Trends");
        Ask(browser, "POST", "/api/held/inputs", "{\"pointId\":\"kiln-temp\",\"value\":55,\"why\":\"spike\",\"minutes\":2}");
        Ask(browser, "POST", "/api/site/clock", "{\"speed\":600}");
        string trend = (string)browser.Script("return (async () => (await (await fetch('/api/trends')).json()).find(t => t.pointId === 'kiln-temp').trend.id)()")!;
        browser.Until("the spike is in the log", () => Greatest(browser, trend) > 54);
        browser.Until("the samples go on after it", () => Convert.ToDouble(browser.Script($"return (async () => {{ const d = (await (await fetch('/api/trends/data?ids={trend}&from=0&to=99999999999999&columns=4000')).json())[0]; return d.last.at(-1) }})()"), CultureInfo.InvariantCulture) < 40);
        // The clock stands still, at a moment at which no column of the week ends within the spike: last values alone would hide it.
        Ask(browser, "POST", "/api/site/clock", "{\"running\":false}");
        for (int i = 0; i < 12 && GreatestLast(browser, trend) > 40; i++) Ask(browser, "POST", "/api/site/clock", "{\"stepSeconds\":180}");
        Assert.InRange(GreatestLast(browser, trend), 20, 40);
        browser.Open($"/supervise/trends?show={trend}");
        browser.ClickText(".head label", "1 week");
        // From about 23 up to 55 °C and back in one column: an upright line over more than half of the chart. Nothing else is.
        browser.Until("the line reaches 55 °C", () => browser.Count(".chart canvas") > 0 && Tallest(browser) > 0.5);
        Ask(browser, "POST", "/api/site/clock", "{\"speed\":60,\"running\":true}");
    }

    /// <summary>The longest upright run of the line's colour, as a share of the chart's height.</summary>
    private static double Tallest(Browser browser) => Convert.ToDouble(browser.Script("""
        const c = document.querySelector('.chart canvas'), d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data
        let tallest = 0
        for (let x = 0; x < c.width; x++) {
          for (let y = 0, run = 0; y < c.height; y++) {
            const i = (y * c.width + x) * 4
            run = Math.abs(d[i] - 156) + Math.abs(d[i + 1] - 74) + Math.abs(d[i + 2] - 47) < 120 && d[i + 3] > 100 ? run + 1 : 0
            tallest = Math.max(tallest, run)
          }
        }
        return tallest / c.height
        """), CultureInfo.InvariantCulture);

    /// <summary>The greatest of the columns' last values in the week that the page would show now.</summary>
    private static double GreatestLast(Browser browser, string trend) => Convert.ToDouble(browser.Script($"return (async () => {{ const now = (await (await fetch('/api/site')).json()).now; const d = (await (await fetch(`/api/trends/data?ids={trend}&from=${{now - 7 * 86400e3}}&to=${{now}}&columns=900`)).json())[0]; return Math.max(...d.last.filter(v => v != null)) }})()"), CultureInfo.InvariantCulture);

    private static double Greatest(Browser browser, string trend) => Convert.ToDouble(browser.Script($"return (async () => {{ const d = (await (await fetch('/api/trends/data?ids={trend}&from=0&to=99999999999999&columns=4000')).json())[0]; return Math.max(...d.greatest.filter(v => v != null)) }})()"), CultureInfo.InvariantCulture);

    private static void Ask(Browser browser, string method, string path, string body) =>
        Assert.Equal(true, browser.Script("return (async () => (await fetch(arguments[1], { method: arguments[0], headers: { 'X-Lofty-Wren': '1', 'content-type': 'application/json' }, body: arguments[2] })).ok)()".Replace("arguments[", "a[").Insert(0, "const a = arguments; "), method, path, body));
}
