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
        browser.Type("#line-number", "1.4");
        browser.Type("#line-name", "Teaching wing");
        browser.Click("#line-do");
        browser.See("[data-line='1.4']");
        // A device on it gets its address.
        browser.Click("#add-bus-device");
        browser.Choose("#dev-is", "Switching actuator, 12-fold");
        browser.Type("#dev-in", "teaching room");
        browser.ClickText("[role=option]", "Teaching room");
        browser.Choose("#dev-line", "1.4 Teaching wing");
        browser.Type("#dev-name", "Barn actuator");
        browser.Click("#dev-do");
        browser.SeeText("h1", "Barn actuator");
        browser.SeeText(".head", "1.4.1");
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
        browser.Choose("#dev-line", "1.4 Teaching wing");
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
        browser.Until("it is as designed", () => browser.Script("return [...document.querySelectorAll('tr')].find(r => r.textContent.includes('Store actuator'))?.textContent ?? ''") is string row && row.Contains("as designed", StringComparison.Ordinal));
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

    // The passphrase is given, the sticker is held before the camera (a film of its square code), and the device takes orders over sealed telegrams alone.
    [Fact]
    public void A_secured_device_is_put_to_work_from_its_sticker_by_the_camera()
    {
        string film = System.IO.Path.Combine(System.IO.Path.GetTempPath(), $"{Guid.NewGuid():N}.y4m");
        try
        {
            using (Browser browser = Enter("/wire/bus?add=1"))
            {
                browser.Choose("#dev-is", "Push button, 4-fold");
                browser.Type("#dev-in", "glaze store");
                browser.ClickText("[role=option]", "Glaze store");
                browser.Choose("#dev-line", "1.1 Kiln House rooms");
                browser.Type("#dev-name", "Secured buttons");
                browser.Click("#dev-do");
                browser.SeeText("h1", "Secured buttons");
                browser.Open("/commission/bus");
                browser.Click("#hang-all");
                browser.Click("#keys");
                browser.Type("#passphrase", "salt and cobalt blue");
                browser.Type("#passphrase-again", "salt and cobalt");
                browser.Click("#passphrase-do");
                browser.SeeText(".n-message", "not the same");
                browser.Type("#passphrase-again", "salt and cobalt blue");
                browser.Click("#passphrase-do");
                browser.SeeText("#keys", "Keys open");
                browser.ClickText(".n-data-table b", "Secured buttons");
                browser.Click("#sticker");
                browser.SeeText("[role=dialog]", "certificate");
                Film(film, (string)browser.Script("return document.querySelector('[role=dialog] svg path').getAttribute('d')")!, Convert.ToInt32(browser.Script("return document.querySelector('[role=dialog] svg').viewBox.baseVal.width - 8")));
            }
            using var phone = new Browser(demo.Running.Address, film: film);
            phone.EnterDemoAs("engineer");
            phone.Open("/commission/bus");
            phone.ClickText(".n-data-table b", "Secured buttons");
            phone.Click("#label-scan");
            phone.SeeText(".n-message", "Noted");
            phone.SeeText("main", "secured; its certificate is known");
            phone.Do("Secured buttons", "Address by its label");
            phone.Until("it has its address", () => phone.TextOf("aside, .details, main").Contains("not configured", StringComparison.Ordinal));
            phone.Do("Secured buttons", "Write all of it");
            phone.Until("it is as designed", () => phone.Script("return [...document.querySelectorAll('tr')].find(r => r.textContent.includes('Secured buttons'))?.textContent ?? ''") is string row && row.Contains("as designed", StringComparison.Ordinal));
            Assert.Empty(phone.Complaints());
        }
        finally
        {
            File.Delete(film);
        }
    }

    // A film of one picture: the fields of a square code eight dots wide on a light ground.
    private static void Film(string file, string path, int side)
    {
        const int dots = 8, border = 4;
        int width = (side + (2 * border)) * dots;
        byte[] light = new byte[width * width];
        Array.Fill(light, (byte)235);
        foreach (System.Text.RegularExpressions.Match field in System.Text.RegularExpressions.Regex.Matches(path, @"M(\d+) (\d+)h"))
        {
            int x = (int.Parse(field.Groups[1].Value, System.Globalization.CultureInfo.InvariantCulture) + border) * dots, y = (int.Parse(field.Groups[2].Value, System.Globalization.CultureInfo.InvariantCulture) + border) * dots;
            for (int row = y; row < y + dots; row++) Array.Fill(light, (byte)16, (row * width) + x, dots);
        }
        byte[] colour = new byte[width * width / 2];
        Array.Fill(colour, (byte)128);
        using FileStream stream = File.Create(file);
        stream.Write(System.Text.Encoding.ASCII.GetBytes($"YUV4MPEG2 W{width} H{width} F10:1 Ip A1:1 C420jpeg\n"));
        for (int frame = 0; frame < 5; frame++)
        {
            stream.Write("FRAME\n"u8);
            stream.Write(light);
            stream.Write(colour);
        }
    }

    [Fact]
    public void Rooms_are_furnished_like_another_and_heating_is_copied_onto_cooling()
    {
        using Browser browser = Enter("/wire/conversations?add=rooms");
        browser.Choose("#furnish-like", "Clay store");
        browser.Type("#furnish-words", "barn loft");
        browser.Click("#furnish-all");
        browser.SeeText("[role=dialog] table", "Door buttons");
        browser.SeeText("[role=dialog] table", "Barn switching actuator");
        browser.Click("#furnish-do");
        browser.SeeText(".n-data-table", "Library corner light");
        // All in one change: one step back and it is as before.
        browser.Control("z");
        browser.Until("it is undone", () => !browser.TextOf(".n-data-table").Contains("Library corner light", StringComparison.Ordinal));
        browser.Open("/wire/bus?add=1");
        browser.Choose("#dev-is", "Fan-coil actuator");
        browser.Type("#dev-in", "glaze store");
        browser.ClickText("[role=option]", "Glaze store");
        browser.Type("#dev-name", "Trial coil");
        browser.Click("#dev-do");
        browser.SeeText("h1", "Trial coil");
        browser.Click("[data-channel=room1]");
        browser.Type("#parameter-words", "proportional band");
        browser.Type("[aria-label='Heating: proportional band of Room']", "\uE009a\uE0006\n");
        browser.Until("the band is set", () => browser.TextOf(".head").Contains("1 set", StringComparison.Ordinal));
        browser.Type("#parameter-words", "\uE009a\uE000\uE017");
        browser.Click("#copy-channel");
        browser.ClickText("[role=dialog] .n-radio-button, [role=dialog] label", "heating onto cooling");
        browser.SeeText("[role=dialog] table", "Cooling: proportional band");
        browser.Click("#copy-do");
        browser.Until("copied", () => browser.TextOf(".head").Contains("2 set", StringComparison.Ordinal));
        Assert.Empty(browser.Complaints());
    }

    // Typed is tested above; here one is dropped, lines are pasted, a field of the matrix is pressed, and an address takes an object from its own side.
    [Fact]
    public void Single_objects_are_joined_from_either_side()
    {
        using Browser browser = Enter("/wire/bus?add=1");
        browser.Choose("#dev-is", "Switching actuator, 4-fold");
        browser.Type("#dev-in", "glaze store");
        browser.ClickText("[role=option]", "Glaze store");
        browser.Type("#dev-name", "Joined by hand");
        browser.Click("#dev-do");
        browser.SeeText("h1", "Joined by hand");
        browser.ClickText(".head label, .head .n-radio-button", "Objects");
        browser.Click("[data-channel=output1]");
        browser.See("[data-object='output1.state']");
        browser.Type("#address-words", "store light");
        browser.See("[data-address='1/0/0']");
        browser.Script("const t = new DataTransfer(); t.setData('text/plain', '1/0/0'); document.querySelector(\"[data-object='output1.switch']\").dispatchEvent(new DragEvent('drop', { dataTransfer: t, bubbles: true, cancelable: true }))");
        browser.SeeText("[data-object='output1.switch']", "Store light");
        // Two lines from a spreadsheet: by what the objects are called; a name that is not there joins nothing.
        Paste("Output A · switch\t1/0/0, 7/5/1\nOutput A · nothing\t7/5/2");
        browser.SeeText(".n-message", "No object shown here is called");
        Paste("Output A · switch\t1/0/0, 7/5/1\nOutput A · state\t7/5/2");
        browser.SeeText("[data-object='output1.state']", "Output A · state");
        // From the address: a second device says it too.
        browser.Open("/wire/groups");
        browser.Type("input[placeholder^='filter']", "7/5/2");
        browser.ClickText("tr[data-row]", "7/5/2");
        browser.ClickText("aside button, .details button, main button", "Join an object");
        browser.Type("#join-device", "Switching actuator 1");
        browser.ClickText("[role=option]", "Switching actuator 1");
        browser.Choose("#join-object", "Store extract · switch");
        browser.Click("#join-do");
        browser.SeeText("main", "Switching actuator 1: ");
        // In the matrix of the room a field is pressed, and pressed again.
        browser.Open("/wire/bus-matrix");
        browser.Choose("[aria-label=Room]", "Glaze store");
        string field = "[aria-label^='Presence detector'][aria-label$='not joined']";
        long before = browser.Count("[aria-pressed=true].cell");
        browser.Script($"document.querySelector(\"{field}\").click()");
        browser.Until("it is joined", () => browser.Count("[aria-pressed=true].cell") == before + 1);
        // One that is let go of here keeps what it is joined to elsewhere, which the matrix of this room does not show.
        browser.Script("document.querySelector(\"[aria-label^='Joined by hand Output A · switch, 1/0/0']\").click()");
        browser.Until("it is let go of", () => browser.Count("[aria-label^='Joined by hand Output A · switch, 1/0/0'][aria-pressed=true]") == 0);
        browser.Open("/wire/groups");
        browser.Type("input[placeholder^='filter']", "7/5/1");
        browser.ClickText("tr[data-row]", "7/5/1");
        browser.SeeText("main", "Joined by hand: Output A · switch");
        Assert.Empty(browser.Complaints());

        void Paste(string text) => browser.Script("const t = new DataTransfer(); t.setData('text/plain', arguments[0]); document.querySelector(\"[data-object='output1.switch'] input\").dispatchEvent(new ClipboardEvent('paste', { clipboardData: t, bubbles: true, cancelable: true }))", text);
    }
}
