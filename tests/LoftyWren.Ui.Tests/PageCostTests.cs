using System.Globalization;
using System.Text.Json;

namespace LoftyWren.Ui.Tests;

/// <summary>All pages, and how to wait for one.</summary>
internal static class Pages
{
    /// <summary>Every page of the manifest, with a record of the demo where it is of one.</summary>
    internal static readonly string[] All =
    [
        "/plan/kh", "/list/import", "/list/summary", "/library/starter/fcu-4", "/tags", "/names", "/findings", "/history", "/projects", "/wire", "/wire/kh-c1", "/wire/replace/kiln-temp", "/wire/bus", "/wire/bus/bus-store-presence", "/wire/conversations", "/wire/groups", "/wire/bus-library", "/wire/bus-table", "/wire/bus-matrix", "/commission/bus", "/commission/bus/bus-dim-1", "/commission/monitor", "/wire/lists", "/wire/catalogue", "/wire/curves", "/program", "/program/kiln-seq", "/program/vent-seq", "/program/proofs", "/program/help", "/program/older", "/supervise",
        "/supervise/schedules/hours", "/supervise/trends", "/supervise/alarms", "/draw/kh-1", "/commission", "/commission/kh-c4", "/commission/contact", "/commission/compare", "/commission/contact/kh-c4", "/commission/check", "/commission/check/kh-c1", "/commission/build", "/operate/kh-1", "/operate/held", "/operate/trail", "/accounts",
    ];

    /// <summary>Waits until the page has its heading and asks for nothing more.</summary>
    internal static void Settle(Browser browser)
    {
        browser.See("h1");
        int before = -1;
        browser.Until("be quiet", () =>
        {
            int now = Asked(browser).Requests;
            bool isQuiet = now == before;
            before = now;
            Thread.Sleep(200);
            return isQuiet;
        });
    }

    internal static (int Requests, double Kilobytes) Asked(Browser browser)
    {
        // What is asked for again and again as time goes by is not what opening costs.
        object? said = browser.Script("const l = performance.getEntriesByType('resource').filter(e => /\\/api\\//.test(e.name) && !/terminals|\\/why\\/|trends\\/data|\\/log$/.test(e.name)); return JSON.stringify([l.length, l.reduce((s, e) => s + e.decodedBodySize, 0)])");
        double[] numbers = JsonSerializer.Deserialize<double[]>((string)said!)!;
        return ((int)numbers[0], numbers[1] / 1000);
    }
}

/// <summary>What it costs to open a page: what it asks of the server, that nothing moves once it is there, and what is loaded first.</summary>
public class PageCostTests(DemoServer demo) : IClassFixture<DemoServer>
{
    /// <summary>
    /// What opening a page asks of the server, and what an edit elsewhere makes it ask again: the shell asks for seven things on
    /// every page. And once a page has shown its first content it does not move: the sum of what shifted, as the browser
    /// measures it (layout instability), stays under what counts as good, 0.1.
    /// </summary>
    [Fact]
    public void A_page_asks_for_little_stands_still_and_asks_for_less_after_an_edit_elsewhere()
    {
        const int shell = 7, most = 5, again = 6;
        const double mostKilobytes = 400;
        using var browser = new Browser(demo.Running.Address);
        browser.EnterDemoAs("engineer");
        // What a page asks for as the site's time goes by is not what opening it costs.
        browser.ClickText(".site button", "Pause");
        browser.SeeText(".site", "Virtual site paused");
        var wrong = new List<string>();
        foreach (string page in Pages.All)
        {
            browser.Open(page);
            Pages.Settle(browser);
            var (asked, kilobytes) = Pages.Asked(browser);
            if (asked > shell + most)
            {
                // What something that happened on the site meanwhile made it ask again is not what opening it costs.
                browser.Open(page);
                Pages.Settle(browser);
                (asked, kilobytes) = Pages.Asked(browser);
            }
            if (asked > shell + most || kilobytes > mostKilobytes) wrong.Add($"{page} asks {asked} times for {kilobytes:0} kB: {What(browser)}");
            if (Shift(browser) is > 0.1 and var shift) wrong.Add($"{page} shifts by {shift:0.00}");
            browser.Script("performance.clearResourceTimings()");
            // The washroom of another building gets another area.
            browser.Script("""
                const at = await_ => { const x = new XMLHttpRequest(); x.open('GET', '/api/records/bn-g-lobby', false); x.send(); return JSON.parse(x.responseText) };
                const { record, revision } = at();
                const x = new XMLHttpRequest();
                x.open('POST', '/api/changes', false);
                x.setRequestHeader('content-type', 'application/json');
                x.setRequestHeader('X-Lofty-Wren', '1');
                x.send(JSON.stringify({ edits: [{ put: { ...record, areaSquareMetres: (record.areaSquareMetres ?? 20) + 1 }, from: revision }] }));
                """);
            // What comes of this edit later must not be counted to the next page.
            Thread.Sleep(900);
            Pages.Settle(browser);
            var (after, _) = Pages.Asked(browser);
            // The reading and the writing of the edit itself are two of them.
            if (after - 2 > again) wrong.Add($"{page} asks {after - 2} times after an edit elsewhere: {What(browser)}");
        }
        browser.ClickText(".site button", "Run");
        Assert.True(wrong.Count == 0, string.Join('\n', wrong));

        static string What(Browser browser) => (string)browser.Script("return performance.getEntriesByType('resource').map(e => new URL(e.name).pathname + new URL(e.name).search).filter(p => p.startsWith('/api')).join(' ')")!;
    }

    private static double Shift(Browser browser) => Convert.ToDouble(browser.Script("""
        return new Promise(done => {
          let sum = 0
          new PerformanceObserver(list => { for (const e of list.getEntries()) if (!e.hadRecentInput) sum += e.value }).observe({ type: 'layout-shift', buffered: true })
          setTimeout(() => done(sum), 200)
        })
        """), CultureInfo.InvariantCulture);

    /// <summary>The script that is loaded before the first screen stands, as it goes over the wire.</summary>
    [Fact]
    public void The_first_load_is_under_350_kilobytes()
    {
        using var browser = new Browser(demo.Running.Address);
        browser.See("#name");
        double kilobytes = Convert.ToDouble(browser.Script("return performance.getEntriesByType('resource').filter(e => e.name.endsWith('.js')).reduce((s, e) => s + e.encodedBodySize, 0)"), CultureInfo.InvariantCulture) / 1000;
        Assert.InRange(kilobytes, 50, 350);
    }
}
