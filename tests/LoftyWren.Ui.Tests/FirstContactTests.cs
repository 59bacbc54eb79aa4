using OpenQA.Selenium;

namespace LoftyWren.Ui.Tests;

/// <summary>Controllers met, exchanged, compared; what is left over afterwards. As a technician and an engineer go through them.</summary>
public class FirstContactTests(DemoServer demo) : IClassFixture<DemoServer>
{
    private Browser Enter(string account, string page)
    {
        var browser = new Browser(demo.Running.Address);
        browser.EnterDemoAs(account);
        browser.Open(page);
        return browser;
    }

    private static void Secrets(Browser browser)
    {
        browser.Type("#secret-account", "contractor");
        browser.Type("#secret-secret", "blue-glaze-77");
        browser.Type("#secret-secretAgain", "blue-glaze-77");
        browser.Type("#secret-passphrase", "three pots on a shelf");
        browser.Type("#secret-passphraseAgain", "three pots on a shelf");
    }

    /// <summary>A controller is exchanged on the wall: its certificate is another, work stops and says so; met anew, it runs what the old one ran.</summary>
    [Fact]
    public void An_exchanged_controller_is_met_anew_before_anything_goes_to_it()
    {
        using Browser browser = Enter("technician", "/commission/contact");
        browser.Do("KH-C3", "Exchange for another…");
        browser.Type("#hang-why", "water in the panel");
        browser.Click("#hang-do");
        browser.Open("/commission/kh-c3");
        browser.SeeText("[data-plan]", "KH-C3 does not answer");
        browser.Open("/commission/contact/kh-c3");
        browser.SeeText("main", "another certificate than before");
        browser.SeeText("[data-line=certificate]", "Another than is remembered");
        Assert.False(browser.See("#set-up").Enabled);
        browser.Click("#exchanged");
        browser.Type("#exchange-why", "water in the panel");
        browser.Click("#exchange-do");
        browser.SeeText("[data-line=certificate]", "Met for the first time");
        Secrets(browser);
        browser.Until("it can be set going", () => browser.See("#set-up").Enabled);
        browser.Click("#set-up");
        browser.SeeText("[data-proof]", "KH-C3 is set up and runs version 1");
        browser.Open("/operate/trail");
        browser.SeeText("main", "Forgot the certificate and credentials of KH-C3: water in the panel");
    }

    [Fact]
    public void Two_controllers_are_hung_and_set_up_together_each_with_its_own_outcome()
    {
        using Browser browser = Enter("engineer", "/wire");
        foreach (string name in new[] { "KH-C7", "KH-C8" })
        {
            browser.Open("/wire");
            browser.Click("#add-controller");
            browser.Type("#ctl-name", name);
            browser.Type("#ctl-where", "entrance hall" + Keys.Enter);
            browser.Until("have found the hall", () => browser.See("#ctl-where").GetAttribute("value")!.Contains("Entrance hall", StringComparison.Ordinal));
            browser.Click("#ctl-add");
            browser.SeeText("h1", $"Panel {name}");
        }
        browser.Open("/commission/contact");
        browser.Do("KH-C7", "Hang out of its box");
        browser.SeeText("tr[data-row]", "hangs, as it came out of its box");
        foreach (string name in new[] { "KH-C7", "KH-C8" }) browser.SeeText("tr[data-row]", name).FindElement(By.CssSelector("[role=checkbox], .n-checkbox")).Click();
        browser.ClickText("button", "Set up together");
        browser.SeeText("[data-outcome=ready]", "KH-C7");
        browser.SeeText("[data-outcome=trouble]", "Nothing hangs there yet");
        Secrets(browser);
        browser.Until("one can be set up", () => browser.See("#set-up-many").Enabled && browser.TextOf("#set-up-many") == "Set up 1");
        browser.Click("#set-up-many");
        browser.SeeText("[data-outcome=done]", "KH-C7 is set up and runs version 1");
        browser.SeeText("[data-many]", "1 of 2 are set up and run");
    }

    /// <summary>A trend is removed and sent: what was kept of it is left over, and is removed with a reason.</summary>
    [Fact]
    public void What_runs_is_taken_over_and_what_is_left_over_is_removed()
    {
        using Browser browser = Enter("engineer", "/commission/kh-c4");
        browser.ClickText("button", "Read back and compare");
        browser.SeeText("[data-back=gal-sp]", "fallback: runs 20, designed 19.5");
        browser.Click("[data-back=gal-sp] .n-checkbox");
        browser.Click("#take-some");
        browser.SeeText("[data-read-back]", "KH-C4 runs exactly the design.");
        browser.Control("z");
        browser.SeeText(".site", "ahead of KH-C4");

        browser.Open("/commission/compare");
        browser.Click("#compare-all");
        browser.SeeText("tr[data-row]", "ran the design");
        browser.SeeText("tr[data-row]", "differs in 1 record");
        browser.SeeText("[data-orphans]", "✓ none");
        browser.Script("""
            const send = (url, body) => { const x = new XMLHttpRequest(); x.open('POST', url, false); x.setRequestHeader('content-type', 'application/json'); x.setRequestHeader('X-Lofty-Wren', '1'); x.send(JSON.stringify(body)); if (x.status != 200) throw x.responseText };
            send('/api/changes', { edits: [{ remove: 'tr-kiln-temp' }] });
            """);
        browser.SeeText("[data-unknown=tr-kiln-temp]", "Room temperature");
        browser.Open("/commission/kh-c1");
        browser.Click("#send");
        browser.SeeText(".fact", "runs version 2");
        browser.Open("/commission/compare");
        browser.SeeText("[data-orphans]", "Samples of ‘Room temperature’");
        browser.Click("[data-orphan='log|tr-kiln-temp'] .n-checkbox");
        browser.Click("#orphans-remove");
        browser.Type("#orphans-why", "nobody looks at it");
        browser.Click("#orphans-do");
        browser.SeeText("[data-orphans]", "✓ none");
    }

    /// <summary>The design lives a day beside what runs, before it is sent.</summary>
    [Fact]
    public void A_day_of_both_shows_what_would_go_otherwise()
    {
        using Browser browser = Enter("technician", "/commission/kh-c2");
        browser.Click("#rehearse-day");
        browser.SeeText("[data-rehearsal]", "does exactly what runs there does");
    }

    /// <summary>What the yard runs was written with an older version: its report is read, it is converted, lived beside for a day, and only then sent.</summary>
    [Fact]
    public void An_older_program_is_converted_lived_beside_and_sent()
    {
        using Browser browser = Enter("engineer", "/findings");
        browser.SeeText("main", "‘Wood shed lighting’ was written with an older version.");
        browser.Open("/program/older");
        browser.SeeText("[data-sort=risky]", "began anew at every edge");
        browser.SeeText("[data-sort=changed]", "On at 100 and off at 160 became a limit of 100 with a differential of 60.");
        browser.Click("#convert");
        browser.SeeText("[role=alertdialog]", "as one change that undo takes back");
        browser.Click("#convert-now");
        browser.SeeText("[data-waiting]", "a day of both is missing");
        browser.Open("/commission/yd-c1");
        browser.Click("#send");
        browser.SeeText("body", "Live a day of both first");
        browser.Click("#rehearse-day");
        browser.SeeText("[data-rehearsal]", "Over a day");
        browser.Click("#send");
        browser.SeeText(".fact", "runs version 2");
        browser.Open("/program/older");
        browser.SeeText(".fact", "nothing to convert");
        browser.SeeText("h2", "Every program is of this version");
    }
}
