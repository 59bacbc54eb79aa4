using OpenQA.Selenium;

namespace LoftyWren.Ui.Tests;

/// <summary>From an empty installation to a room under control, by the interface alone.</summary>
public class FromNothingTests
{
    [Fact]
    public void A_new_user_brings_a_room_under_control()
    {
        using var running = new Running(empty: true);
        using var browser = new Browser(running.Address);

        // The first account, with a wrong code first: nothing typed is lost.
        browser.Type("#code", "WRONG");
        browser.Type("#name", "keeper");
        browser.Type("#password", "quay-side-9");
        browser.Click("form [type=submit]");
        browser.SeeText("[role=alert]", "not the code that was printed");
        browser.Type("#code", running.Code);
        browser.Click("form [type=submit]");

        // The site and its places.
        browser.Type("#site-name", "Saltmarsh Pottery");
        browser.Choose("#site-zone", "Europe/London");
        browser.ClickText("button", "Make the site");
        Add(browser, "building", "Kiln House");
        Add(browser, "floor", "Ground floor");
        Add(browser, "room", "Kiln room", "#add-area", "60");
        browser.SeeText(".room", "Kiln room").Click();
        Add(browser, "equipment", "Extract", "#add-kind", "extract fan");

        // Points: one on the room, two on the fan; typed into the table like into a spreadsheet.
        browser.SeeText(".room b", "Kiln room").Click();
        NewPoint(browser, "Room temperature");
        Cell(browser, "Room temperature", 3, "C", "°C");
        browser.SeeText(".chip", "Extract").Click();
        browser.SeeText("section h2", "Kiln room · Extract");
        NewPoint(browser, "Extract fan");
        Cell(browser, "Extract fan", 1, "b");
        Cell(browser, "Extract fan", 2, "c");
        NewPoint(browser, "High limit");
        Cell(browser, "High limit", 2, "se" + Keys.ArrowDown + Keys.ArrowDown, "setpoint");
        Cell(browser, "High limit", 3, "C", "°C");
        Cell(browser, "High limit", 6, "29", "29");

        // The controller and its terminals.
        browser.Open("/wire");
        browser.Click("#add-controller");
        browser.Type("#ctl-name", "KH-C1");
        browser.Type("#ctl-where", "kiln room" + Keys.Enter);
        browser.Until("have found the room", () => browser.See("#ctl-where").GetAttribute("value")!.EndsWith("Kiln room", StringComparison.Ordinal));
        browser.Click("#ctl-add");
        browser.SeeText("h1", "Panel KH-C1");
        browser.Type("#type-terminal", "room temperature RO1" + Keys.Enter);
        browser.SeeText("body", "RO1 is an output and ‘Room temperature’ is a sensor");
        browser.Type("#type-terminal", "room temperature UI3" + Keys.Enter);
        browser.SeeText("[data-terminal=UI3]", "Room temperature");
        browser.Click("#fit");
        browser.Click("#fit-apply");
        browser.SeeText("[data-terminal=RO1]", "Extract fan");
        browser.SeeText(".unplaced", "Every point of this building has a source");

        // The sequence.
        browser.Open("/program");
        browser.Click("#add-sequence");
        browser.Type("#seq-name", "Kiln room extract");
        browser.Type("#seq-of", "extract");
        browser.ClickText("[role=option]", "Extract");
        browser.Type("#seq-controller", "KH-C1");
        browser.ClickText("[role=option]", "KH-C1");
        browser.Click("#seq-add");
        browser.SeeText("h1", "Kiln room extract");
        browser.Type("#insert", "two-pos" + Keys.Enter);
        browser.SeeText(".block", "Two-position");
        browser.SeeText(".bar.high", "Input ‘measured’ of ‘Two-position’ is not connected");
        Source(browser, "measured", "room temp");
        Source(browser, "limit", "high limit");
        browser.Type("[data-number=differential]", "2" + Keys.Tab);
        browser.Type("#insert-output", "extract fan" + Keys.Enter);
        browser.Click("#add-claim");
        Source(browser, "claim", "two-position");
        browser.Until("have a connected claim at 10", () => browser.TextOf("[data-output]").Contains("10"));

        // The schedule.
        browser.Open("/supervise");
        browser.Click("#add-schedule");
        browser.Type("#sch-name", "Opening hours");
        browser.Click("#sch-add");
        browser.Type("#phrase", "tue-fri 9:00-17:30 opne");
        browser.SeeText(".answer", "‘opne’ is not a value of this schedule. Use closed or open");
        browser.Type("#phrase", "tue-fri 9:00-17:30 open" + Keys.Enter);
        browser.SeeText(".span", "09:00–17:30");
        browser.Type("#drive-words", "extract fan" + Keys.Enter);
        browser.SeeText(".drive", "Extract fan");

        // The trend, from the point's dossier; the alarm.
        browser.Open("/plan");
        browser.SeeText(".room b", "Kiln room").Click();
        browser.ClickText("tr .now", "");
        browser.ClickText(".dossier button", "Trend it");
        browser.Open("/supervise/alarms");
        browser.Click("#add-alarm");
        browser.Type("#alarm-point", "room temperature");
        browser.ClickText("[role=option]", "Room temperature");
        browser.Type("#alarm-name", "Kiln room too warm");
        browser.Type("#alarm-high", "30");
        browser.Type("#alarm-delay", "60");
        browser.Type("#alarm-advice", "Open the hood damper.");
        browser.Click("#alarm-save");
        browser.SeeText("td", "Kiln room too warm");

        // Out of its box: hung, met over its own connection, set up from one sheet, and it proves that it runs.
        browser.Open("/commission");
        browser.ClickText("a", "Review");
        browser.SeeText("h2", "What will change");
        browser.SeeText("[data-plan]", "was never set up from here");
        browser.Click(".speeds [data-choice='60']");
        browser.Open("/commission/contact");
        browser.SeeText("tr[data-row]", "in its box");
        browser.Click("[id^=hang-]");
        browser.SeeText("tr[data-row]", "hangs, as it came out of its box");
        browser.ClickText("main a", "Set it up");
        browser.SeeText("[data-line=device]", "It is as it came out of its box");
        browser.SeeText("[data-line=certificate]", "Met for the first time");
        browser.SeeText("[data-line=network]", "10.20.1.11/24");
        browser.SeeText("[data-part=schedules]", "needed by 1 schedule");
        browser.Type("#secret-account", "contractor");
        browser.Type("#secret-secret", "too-short");
        browser.SeeText("[data-secrets]", "A secret has at least 10 characters");
        browser.Type("#secret-secret", "too-short-no-more");
        browser.Type("#secret-secretAgain", "too-short-no-more");
        browser.Type("#secret-passphrase", "three pots on a shelf");
        browser.Type("#secret-passphraseAgain", "three pots on a shelf");
        browser.Until("it can be set going", () => browser.See("#set-up").Enabled);
        browser.Click("#set-up");
        browser.SeeText("[data-proof]", "KH-C1 is set up and runs version 1: what it says it runs is what was designed.");
        browser.SeeText(".site", "Installed as designed");

        // Every point of its panel proved: the sensor against an instrument, the fan by what it does.
        browser.ClickText("[data-proof] a", "Check its points");
        browser.Click("[data-check=UI3]");
        browser.SeeText("[data-card=UI3] .now", "°C");
        browser.Type("#check-reference", System.Text.RegularExpressions.Regex.Match(browser.TextOf("[data-card=UI3] .now"), @"[\d.]+").Value);
        browser.Click("[data-act=compare]");
        browser.SeeText("[data-check=UI3]", "✓");
        browser.Click("[data-check=RO1]");
        browser.Click("[data-card=RO1] [data-step='1']");
        browser.Click("[data-act=pass]");
        browser.SeeText("[data-check=RO1]", "✓");
        browser.Open("/commission/check");
        browser.SeeText("main", "2 of 2 passed");

        // Speed up; set the sensor by hand above the limit; the fan runs by 10 and the alarm comes.
        browser.Click(".speeds [data-choice='60']");
        browser.Open("/plan");
        browser.SeeText(".room b", "Kiln room").Click();
        browser.ClickText("tr .now", "°C");
        browser.ClickText(".dossier button", "Simulate…");
        browser.Type("#hold-value", "31");
        browser.Type("#hold-why", "trying the alarm" + Keys.Enter);
        browser.SeeText(".dossier .big", "31.0 °C");
        browser.SeeText(".where", "1 alarm");
        browser.Open("/supervise/alarms");
        browser.SeeText("article", "Open the hood damper.");
        browser.ClickText("article button", "Why?");
        browser.SeeText(".dossier .because", "‘Kiln room too warm’ is in alarm since");
        browser.Click("[data-act=acknowledge]");
        browser.Type("article input", "seen, damper opened" + Keys.Enter);
        browser.SeeText("article", "seen, damper opened");

        // Ask the fan why.
        browser.Open("/plan");
        browser.SeeText(".chip", "Extract").Click();
        browser.SeeText("section h2", "Kiln room · Extract");
        browser.ClickText("tr .now", "on");
        browser.SeeText(".because", "Extract fan is on: claim 10 Kiln room extract says on");
        browser.SeeText(".because", "It will release below 27.0 °C.");

        // The trend shows samples, the floor view the room.
        browser.Open("/supervise/trends");
        browser.See(".u-over");
        browser.Open("/draw");
        browser.Click("#propose");
        browser.Until("see the outline", () => browser.Count("svg.plan polygon") > 0);
        browser.Open("/operate");
        browser.SeeText("[data-room] .name, [data-room]", "Kiln room");
        Assert.Empty(browser.Complaints());
    }

    private static void Add(Browser browser, string what, string name, string? field = null, string? value = null)
    {
        browser.Click("#add");
        browser.Choose("#add-what", what);
        browser.Type("#add-name", name);
        if (field == "#add-kind") browser.Choose(field, value!);
        else if (field is not null) browser.Type(field, value!);
        browser.Click("#add-do");
        browser.Until("close the box", () => browser.Count("#add-do") == 0);
        browser.SeeText(".plan", name);
    }

    private static void NewPoint(Browser browser, string name)
    {
        browser.Click("#new-point");
        browser.Type(".cell-edit", name + Keys.Enter);
        browser.SeeText("td b", name);
    }

    /// <summary>Types into a cell of the row of a point; waits until the row says so.</summary>
    private static void Cell(Browser browser, string point, int column, string keys, string? shown = null)
    {
        string word = shown ?? new[] { "analog", "binary", "command", "sensor", "setpoint" }.First(w => w.StartsWith(keys, StringComparison.Ordinal));
        browser.Until($"give {point} {word}", () =>
        {
            IWebElement row = browser.SeeText("tr", point);
            IWebElement cell = row.FindElements(By.CssSelector("td"))[column];
            if (cell.Text.Contains(word, StringComparison.Ordinal)) return true;
            cell.Click();
            browser.Press(keys[..1]);
            Thread.Sleep(150);
            if (browser.Count(".cell-edit") == 0) return false;
            if (word == "setpoint") browser.Choose(".cell-edit", "setpoint");
            else if (keys.Length > 1) browser.Press(keys[1..]);
            browser.Press(Keys.Enter);
            Thread.Sleep(400);
            return false;
        });
    }

    private static void Source(Browser browser, string pin, string words)
    {
        string box = $"input[data-pin={pin}]";
        browser.Type(box, words);
        browser.See("[role=option]");
        browser.See(box).SendKeys(Keys.Enter);
        browser.Until($"connect {pin}", () => browser.Count("[role=option]") == 0);
        Thread.Sleep(400);
    }
}
