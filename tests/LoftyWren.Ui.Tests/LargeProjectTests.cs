using System.Globalization;
using System.Text;
using OpenQA.Selenium;

namespace LoftyWren.Ui.Tests;

/// <summary>What a project of many thousands of records asks of the pages: work with progress, lists that filter, references that find their own room.</summary>
public class LargeProjectTests
{
    private static string File(string name, string text)
    {
        string path = Path.Combine(Directory.CreateTempSubdirectory("lofty-wren-large-").FullName, name);
        System.IO.File.WriteAllText(path, text, Encoding.UTF8);
        return path;
    }

    [Fact]
    public void A_large_list_comes_in_with_progress_and_its_rooms_are_equipped_in_one_placing()
    {
        var list = new StringBuilder("Building,Floor,Level,Room,Area,Point,Type,Unit\n");
        for (int room = 0; room < 250; room++)
        {
            for (int i = 0; i < 8; i++) list.Append(CultureInfo.InvariantCulture, $"Long barn,Floor {room / 50},{room / 50},Bay {room + 1},30,{(i == 0 ? "Room temperature" : $"Probe {i}")},AI,°C\n");
        }
        using var running = new Running(empty: false);
        using var browser = new Browser(running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open("/list/import");
        browser.Give("#file", File("barn.csv", list.ToString()));
        browser.SeeText("[data-choice=adds]", "2,000");
        // Whether the bar was ever there is written down by the page itself: it may be gone before the driver looks.
        browser.Script("window.seen = []; new MutationObserver(() => { const bar = document.querySelector('[data-job]'); if (bar) window.seen.push(bar.innerText.replace(/\\s+/g, ' ')) }).observe(document.body, { childList: true, subtree: true, characterData: true })");
        browser.Click("#apply:enabled");
        browser.SeeText("h1", "Long barn");
        Assert.Contains("Import of ‘list’", (string)browser.Script("return window.seen.join('\\n')")!, StringComparison.Ordinal);

        // The demo's fan-coil brings a room temperature of its own; the rooms of this barn have theirs, so it is told before anything is made.
        browser.Open("/library/demo/pottery-fan-coil");
        browser.SeeText("[aria-label='References outward']", "→ Opening hours");
        browser.SeeText(".wrong", "Decide first where 2 of the references lead");
        browser.Script("for (const b of document.querySelectorAll(\"[aria-label='References outward'] button\")) if (b.innerText.trim() === 'Leave open') b.click()");
        browser.Type("#room-words", "long barn floor 4");
        browser.Click("#all-rooms");
        browser.SeeText(".rooms .fact", "50 chosen");
        browser.Type("#pattern", "Bay fan-coil {n}");
        browser.Click("#preview:enabled");
        browser.SeeText("[aria-label=Preview] .bar.high", "There is already a point called ‘Room temperature’ here");
        Assert.False(browser.See("#place").Enabled);
        // The starter's lights go into all of them, as a job.
        browser.ClickText(".shelf a", "Switched lighting group");
        browser.SeeText("h2", "Switched lighting group");
        browser.Type("#room-words", "long barn");
        browser.Click("#all-rooms");
        browser.SeeText(".rooms .fact", "250 chosen");
        browser.Type("#pattern", "{room} lights");
        browser.Click("#preview:enabled");
        browser.SeeText("#place", "Place 250");
        browser.ClickText("[aria-label=Preview] summary", "Bay 1 lights");
        browser.SeeText("[aria-label=Preview] li", "+ equipment Bay 1 lights");
        browser.Script("window.seen = []");
        browser.Click("#place:enabled");
        browser.Until("have placed them", () => browser.Count("#place") == 0 && browser.Count("[data-job]") == 0);
        browser.Open("/plan");
        browser.Choose("[aria-label=Building]", "Long barn");
        browser.SeeText(".head .fact", "250 equipment");
        Assert.Empty(browser.Complaints());
    }

    /// <summary>2,000 bus devices under 20,000 group addresses: each list draws what is seen and finds by words; one is set, one joined, many set at once, all of them hung.</summary>
    [Fact]
    public void Two_thousand_bus_devices_are_found_set_joined_and_hung()
    {
        using var running = new Running(empty: false);
        using var browser = new Browser(running.Address);
        browser.EnterDemoAs("engineer");
        browser.Script("""
            const put = async records => { const a = await fetch('/api/changes', { method: 'POST', headers: { 'Content-Type': 'application/json', 'X-Lofty-Wren': '1' }, body: JSON.stringify({ edits: records.map(put => ({ put })) }) }); if (!a.ok) throw new Error(await a.text()) }
            const many = (n, of) => Array.from({ length: n }, (_, i) => of(i))
            const inParts = async (records, size) => { while (records.length) await put(records.splice(0, size)) };
            (async () => {
              await put(many(48, l => ({ type: 'busLine', id: `big-l${l}`, name: `Long barn ${l}`, area: 2 + Math.floor(l / 15), line: 1 + l % 15, lengthMetres: 100 })))
              await inParts(many(20000, g => ({ type: 'groupAddress', id: `big-g${g}`, name: `Long barn group ${g}`, number: `${6 + (g >> 11)}/${(g >> 8) & 7}/${g & 255}`, datapoint: '1.001' })), 2000)
              const objects = many(10, i => `output${1 + (i >> 1)}.${i % 2 ? 'state' : 'switch'}`)
              await inParts(many(2000, d => ({ type: 'busDevice', id: `big-d${d}`, name: `Long barn actuator ${d}`, placeId: 'kh-g-workshop', descriptionId: 'switch-12', lineId: `big-l${d % 48}`, number: 1 + Math.floor(d / 48), joins: objects.map((object, i) => ({ object, groups: [`big-g${d * 10 + i}`] })) })), 500)
            })().then(() => (window.made = 'all'), e => (window.made = String(e)))
            """);
        browser.Until("they are in the project", () => browser.Script("return window.made ?? null") is not null);
        Assert.Equal("all", browser.Script("return window.made"));

        browser.Open("/wire/bus");
        browser.SeeText(".fact", "2,043 devices");
        Assert.InRange(browser.Count("tr[data-row]"), 5, 120);
        browser.Type("[aria-label='Filter the bus devices']", "actuator 1234");
        browser.SeeText("[role=status]", "1 of 2,043");
        browser.ClickText("tr[data-row] a", "Long barn actuator 1234");
        browser.SeeText("h1", "Long barn actuator 1234");
        browser.Click("[data-channel=output1]");
        browser.Choose("[aria-label='Function of Output A']", "Staircase");
        browser.SeeText(".head", "1 set");
        // Another address for an object, by its number.
        browser.Open("/wire/bus/big-d1234?lens=objects");
        browser.Click("[data-channel=output1]");
        browser.Type("[data-object='output1.switch'] input", "6/0/0" + Keys.Enter);
        browser.SeeText("[data-object='output1.switch']", "Long barn group 0");

        browser.Open("/wire/groups");
        browser.SeeText(".fact", "20,124 addresses");
        Assert.InRange(browser.Count("tr[data-row]"), 5, 120);
        browser.Type("[aria-label='Filter the group addresses']", "6/0/0 group 0");
        browser.ClickText("tr[data-row]", "Long barn group 0");
        browser.SeeText("main", "Long barn actuator 1234: Output A · switch");

        // Channels of a device far down the list, found by words and set together.
        browser.Open("/wire/bus-table");
        browser.SeeText(".fact", "24,012 rows");
        Assert.InRange(browser.Count("tr[data-row]"), 5, 120);
        browser.Type("#table-rows", "actuator 1999");
        // Not the 24,012 that are still there.
        browser.Until("find its channels", () => (bool)browser.Script("return [...document.querySelectorAll('.fact')].some(f => f.innerText.trim() === '12 rows')")!);
        browser.Click("thead .n-checkbox");
        browser.SeeText(".tools", "12 ");
        browser.ClickText(".tools button", "Set a parameter");
        browser.SeeText("[role=dialog]", "Set at 12 channels");
        browser.Choose("[role=dialog] [aria-label=Function]", "Disabled");
        browser.Until("be set", () => browser.Count("[role=dialog]") == 0);
        browser.SeeText("tr[data-row]", "Disabled");

        // A channel from elsewhere takes part, whatever there is.
        browser.Open("/wire/conversations?add=1");
        browser.Type("#conv-in", "glaze store");
        browser.ClickText("[role=option]", "Glaze store");
        browser.Type("#conv-name", "Far light");
        browser.Type("#conv-words", "actuator 1777 output c");
        browser.Click("[data-part='Long barn actuator 1777 output3']");
        browser.SeeText("[role=dialog] .preview", "Long barn actuator 1777: Output C");
        browser.Click("#conv-do");
        browser.SeeText(".n-data-table", "Far light");

        // All of them hang, and their list still answers.
        browser.Open("/commission/bus");
        browser.ClickText("#hang-all", "Hang 2,000");
        browser.Until("all hang", () => browser.Count("#hang-all") == 0);
        browser.Type("[aria-label='Filter the bus devices']", "actuator 1234");
        // Nothing feeds their lines, and it says so.
        browser.SeeText("tr[data-row]", "no bus");
        Assert.Empty(browser.Complaints());
    }

    [Fact]
    public void A_long_list_filters_by_words_counts_as_people_do_and_draws_what_is_seen()
    {
        using var running = new Running(empty: false);
        using var browser = new Browser(running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open("/program");
        // Fan-coil 2 before Fan-coil 10, whatever the letters say.
        browser.Type("[aria-label='Filter the sequences']", "fan-coil");
        browser.SeeText("tbody tr", "Fan-coil 10");
        string page = browser.Page();
        Assert.True(page.IndexOf("Fan-coil 9", StringComparison.Ordinal) < page.IndexOf("Fan-coil 10", StringComparison.Ordinal));
        browser.Type("[aria-label='Filter the sequences']", "barn fan");
        browser.SeeText("[role=status]", "4 of ");
        Assert.Equal(4, browser.Count("tbody tr"));
        browser.Type("[aria-label='Filter the sequences']", "zeppelin");
        browser.SeeText("main", "No sequence has all of these words");
        browser.ClickText("button", "Show all");
        browser.Until("show all again", () => browser.Count("tbody tr") > 4);

        // Controllers: made twice through the interface, found by words of a room with the keyboard alone.
        browser.Open("/wire");
        browser.Click("#add-controller");
        browser.Type("#ctl-name", "KH-C8");
        browser.Type("#ctl-where", "nowhere at all");
        browser.SeeText("body", "Nothing has these words");
        browser.Click("#ctl-add");
        browser.SeeText("body", "Choose the room it hangs in from the list");
        browser.Type("#ctl-where", "stock room");
        browser.SeeText("[role=option]", "Stock room");
        browser.Type("#ctl-where", Keys.Enter);
        browser.Click("#ctl-add");
        browser.SeeText("h1", "Panel KH-C8");
        browser.SeeText(".fact", "Kiln House › Ground floor › Stock room");

        // A point that was chosen before does not stand for other words that were typed since.
        browser.Open("/supervise/alarms");
        browser.Click("#add-alarm");
        browser.Type("#alarm-point", "kiln room temperature");
        browser.ClickText("[role=option]", "Room temperature");
        browser.Type("#alarm-point", "nothing of the sort");
        browser.Type("#alarm-name", "Wrong point");
        browser.Type("#alarm-high", "30");
        browser.SeeText("form .wrong", "Not chosen yet");
        browser.Click("#alarm-save");
        browser.SeeText("body", "Choose the point from the list");
        Assert.DoesNotContain("Wrong point", browser.TextOf("table"), StringComparison.Ordinal);
    }

    [Fact]
    public void Clauses_are_written_met_by_what_is_picked_and_missed_when_nothing_meets_them()
    {
        using var running = new Running(empty: false);
        using var browser = new Browser(running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open("/program/glaze-seq");
        browser.Click("[aria-label='What to do with clause 1']");
        browser.ClickText(".n-dropdown-option", "Remove");
        browser.SeeText(".clauses", "None yet");
        browser.Click("#add-clause");
        browser.Type("[aria-label='Clause 1']", "The extract runs while somebody is in the store and ten minutes after." + Keys.Tab);
        browser.SeeText(".clauses .fact", "met by nothing");
        browser.SeeText(".bar.low", "Nothing meets clause 1 of ‘Glaze store extract’");
        browser.Script("document.querySelector('[data-block=tof]').click()");
        browser.ClickText(".clauses button", "Met by what is picked");
        browser.SeeText(".clauses .n-tag", "Hold after presence");
        browser.SeeText(".bar.low", "No test proves clause 1 of ‘Glaze store extract’");
        browser.Click("#add-clause");
        browser.See("[aria-label='Clause 2']");
        browser.Click("[aria-label='What to do with clause 2']");
        browser.ClickText(".n-dropdown-option", "Up");
        browser.Until("have changed places", () => browser.See("[aria-label='Clause 2']").GetAttribute("value")!.StartsWith("The extract runs", StringComparison.Ordinal));
        browser.ClickText(".clauses button", "met by");
        browser.SeeText(".inspect", "Off-delay");
        browser.Click("[aria-label='What to do with clause 1']");
        browser.ClickText(".n-dropdown-option", "Remove");
        browser.Until("have one", () => browser.Count(".clauses li") == 1);
        // A reader sees them and changes nothing; a template shows what it does.
        browser.Open("/library/demo/pottery-fan-coil");
        browser.SeeText("article", "In opening hours the room is kept at its setpoint");
        Assert.Empty(browser.Complaints());
    }

    [Fact]
    public void A_tagged_model_is_looked_at_and_taken_and_daily_copies_are_set_by_the_administrator()
    {
        using var running = new Running(empty: false);
        using var browser = new Browser(running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open("/tags");
        browser.SeeText("h1", "Tags");
        browser.Give("#model-file", File("model.zinc", "ver:\"3.0\"\nid,dis,site,tz,space,room,spaceRef,siteRef\n@s \"Saltmarsh Pottery\",\"Saltmarsh Pottery\",M,\"London\",,,,\n"));
        browser.SeeText("[role=dialog]", "model.zinc");
        browser.ClickText("[role=dialog] button", "Leave");
        browser.Until("be gone", () => browser.Count("[role=dialog]") == 0);
        browser.Give("#model-file", File("broken.zinc", "ver:\"3.0\"\nid,dis\n@s \"never closed,1\n"));
        browser.SeeText("body", "cannot be read");

        string folder = Directory.CreateTempSubdirectory("lofty-wren-copies-").FullName;
        browser.Open("/projects");
        browser.SeeText("h2", "Daily copies");
        using var administrator = new Browser(running.Address);
        administrator.Type("#name", "administrator");
        administrator.Type("#password", "saltmarsh");
        administrator.Click("form [type=submit]");
        administrator.SeeText(".where", "Saltmarsh Pottery");
        administrator.Open("/projects");
        administrator.Type("#copy-folder", Path.Combine(folder, "nowhere"));
        administrator.ClickText(".copies button", "Set, and write");
        administrator.SeeText("body", "There is no folder");
        administrator.Type("#copy-folder", folder);
        administrator.ClickText(".copies button", "Set, and write");
        administrator.SeeText("body", "Copies were written");
        Assert.Single(Directory.GetFiles(folder, "*.wren"));
        Directory.Delete(folder, recursive: true);
    }
}
