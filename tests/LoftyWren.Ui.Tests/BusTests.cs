namespace LoftyWren.Ui.Tests;

/// <summary>Bus devices from nothing: a line, a device, its parameters, who it talks with, and what it will do.</summary>
public class BusTests(DemoServer demo) : IClassFixture<DemoServer>
{
    private Browser Enter(string page)
    {
        var browser = new Browser(demo.Running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open(page);
        return browser;
    }

    [Fact]
    public void A_twelve_fold_actuator_is_added_set_joined_and_seen_at_work()
    {
        using Browser browser = Enter("/wire/bus");
        browser.Click("#add-line");
        browser.Type("#line-number", "1.3");
        browser.Type("#line-name", "Barn");
        browser.Click("#line-do");
        browser.See("[data-line='1.3']");
        // A device on it gets its address.
        browser.Click("#add-bus-device");
        browser.Choose("#dev-is", "Switching actuator, 12-fold");
        browser.Type("#dev-in", "teaching room");
        browser.ClickText("[role=option]", "Teaching room");
        browser.Choose("#dev-line", "1.3 Barn");
        browser.Type("#dev-name", "Barn actuator");
        browser.Click("#dev-do");
        browser.SeeText("h1", "Barn actuator");
        browser.SeeText(".head", "1.3.1");
        // Output A becomes a staircase; its time comes with it, and a slip is told.
        browser.Click("[data-channel=output1]");
        browser.Choose("[aria-label='Function of Output A']", "Staircase");
        browser.Type("[aria-label='Staircase time of Output A']", "\uE009a\uE0002 min\n");
        browser.Until("the time is set", () => browser.TextOf(".head").Contains("2 set", StringComparison.Ordinal));
        browser.Type("[aria-label='Staircase time of Output A']", "\uE009a\uE000long\n");
        browser.SeeText(".n-message", "is not a stretch of time");
        // What is hidden says why.
        browser.Type("#parameter-words", "pulse width");
        browser.SeeText("[data-path='output1.cycle']", "is there when");
        // Copied to another channel, after what differs was seen.
        browser.Type("#parameter-words", "\uE009a\uE000\uE017");
        browser.Click("[data-channel=output1]");
        browser.Click("#copy-channel");
        browser.SeeText("[role=dialog]", "22 parameters would be another");
        browser.Click("#copy-do");
        browser.Until("copied", () => browser.TextOf(".head").Contains("24 set", StringComparison.Ordinal));
        // A button beside it, and both joined with feedback.
        browser.Open("/wire/bus?add=1");
        browser.Choose("#dev-is", "Push button, 4-fold");
        browser.Type("#dev-in", "teaching room");
        browser.ClickText("[role=option]", "Teaching room");
        browser.Choose("#dev-line", "1.3 Barn");
        browser.Type("#dev-name", "Barn buttons");
        browser.Click("#dev-do");
        browser.SeeText("h1", "Barn buttons");
        browser.Open("/wire/conversations?add=1");
        browser.Type("#conv-in", "teaching room");
        browser.ClickText("[role=option]", "Teaching room");
        browser.Type("#conv-name", "Stair light");
        browser.Click("[data-part='Barn buttons button1']");
        browser.Click("[data-part='Barn actuator output1']");
        browser.SeeText("[role=dialog] .preview", "Barn actuator: Output A · state");
        browser.Click("#conv-do");
        browser.SeeText(".n-data-table", "Stair light");
        // What the device will do: told on, it warns after two minutes and goes off half a minute later.
        browser.Open("/wire/bus");
        browser.ClickText(".n-data-table a", "Barn actuator");
        browser.ClickText(".head label, .head .n-radio-button", "What it will do");
        browser.See("[data-lane='output1.output'] .field");
        // Off at the beginning, on when told, and open for the warning after two minutes.
        browser.Until("the warning is explained", () =>
        {
            browser.Script("document.querySelector(\"[data-lane='output1.output'] .field\").focus()");
            browser.Press("\uE014");
            return browser.TextOf("[data-lane='output1.output']").Contains("2:10", StringComparison.Ordinal);
        });
        browser.SeeText("[data-lane='output1.output']", "warning: it goes off soon");
        browser.Click("[data-lane='output1.output'] [data-act=lead]");
        browser.See("[data-path='output1.warning']");
        Assert.Empty(browser.Complaints());
    }

    [Fact]
    public void A_device_is_hung_addressed_by_its_label_tried_written_and_looked_at()
    {
        using Browser browser = Enter("/wire/bus?add=1");
        browser.Choose("#dev-is", "Switching actuator, 12-fold");
        browser.Type("#dev-in", "glaze store");
        browser.ClickText("[role=option]", "Glaze store");
        browser.Choose("#dev-line", "1.1 Kiln House rooms");
        browser.Type("#dev-name", "Store actuator");
        browser.Click("#dev-do");
        browser.SeeText("h1", "Store actuator");
        browser.Open("/commission/bus");
        browser.Click("#hang-all");
        browser.Until("it hangs", () => browser.Script("return [...document.querySelectorAll('tr')].find(r => r.textContent.includes('Store actuator'))?.textContent ?? ''") is string row && row.Contains("hangs", StringComparison.Ordinal));
        // The label is read at the site and typed; it adds up, or it is refused.
        string label = (string)browser.Script("return (await (await fetch('/api/bus/work')).json()).rows.find(r => r.name === 'Store actuator').onSite.serial")!;
        browser.ClickText(".n-data-table b", "Store actuator");
        browser.Do("Store actuator", "Address by its label");
        browser.SeeText("[data-job=failed]", "label of ‘Store actuator’ is not known");
        browser.ClickText("[data-job=failed] button", "Drop");
        browser.Type("#label-is", label[..^1] + (label[^1] == '0' ? '1' : '0'));
        browser.Click("#label-note");
        browser.SeeText(".n-message", "does not add up");
        browser.Type("#label-is", label);
        browser.Click("#label-note");
        browser.SeeText(".n-message", "Noted");
        browser.Do("Store actuator", "Address by its label");
        browser.Until("it has its address", () => browser.TextOf("aside, .details, main").Contains("not configured", StringComparison.Ordinal));
        // Tried before it has anything to do: which lamp is it?
        browser.ClickText("a", "Try its channels");
        browser.SeeText("h1", "Try Store actuator");
        browser.ClickText("[data-try=output3] button", "on");
        browser.SeeText("[data-try=output3]", "drives on");
        browser.ClickText("[data-try=output3] button", "I see it");
        browser.Type("#is-output3", "Shelf lights");
        browser.ClickText("[data-try=output3] button", "Note it");
        browser.SeeText("h2", "Shelf lights");
        browser.ClickText("[data-try=output3] button", "Let go");
        browser.SeeText("[data-try=output3]", "drives nothing");
        // Written, and looked at.
        browser.Open("/commission/bus");
        browser.Do("Store actuator", "Write all of it");
        browser.Until("it is as designed", () => browser.Script("return [...document.querySelectorAll('tr')].find(r => r.textContent.includes('Store actuator'))?.textContent ?? ''") is string row && row.Contains("as designed", StringComparison.Ordinal), 40);
        browser.Do("Store actuator", "Look at it");
        browser.ClickText(".n-data-table b", "Store actuator");
        browser.SeeText("main", "firmware 1.0");
        browser.SeeText("main", "Shelf lights");
        // What it says is heard.
        browser.Open("/commission/monitor");
        browser.Click("#listen");
        browser.SeeText("main", "listens");
        Assert.Empty(browser.Complaints());
    }

    [Fact]
    public void A_story_is_changed_by_keys_and_kept_with_what_must_come_of_it()
    {
        using Browser browser = Enter("/wire/bus/bus-store-presence?lens=story");
        browser.SeeText(".verdicts", "Output 2 · switch is on");
        Assert.Equal(0, browser.Count(".verdicts .wrong"));
        // The second movement comes too late: the fan stays off.
        for (int i = 0; i < 5; i++) browser.Script("document.querySelector('[data-event=again]').focus(); document.querySelector('[data-event=again]').dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', shiftKey: true, bubbles: true }))");
        browser.Until("an expectation fails", () => browser.Count(".verdicts .wrong") > 0);
        browser.SeeText(".verdicts .wrong", "Output 2 · switch is not on but off");
    }
}
