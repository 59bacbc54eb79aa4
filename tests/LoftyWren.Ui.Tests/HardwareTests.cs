namespace LoftyWren.Ui.Tests;

/// <summary>Panels, modules, curves, catalogue and lists, as an engineer goes through them.</summary>
public class HardwareTests(DemoServer demo) : IClassFixture<DemoServer>
{
    private Browser Enter(string page)
    {
        var browser = new Browser(demo.Running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open(page);
        return browser;
    }

    // compact-20 takes two modules. ui-8 is 72 mm and compact-20 216 mm wide: 288 mm of 540.
    [Fact]
    public void A_module_is_added_wired_moved_and_replaced_with_its_points()
    {
        using Browser browser = Enter("/wire/kh-c2");
        browser.Click("#add-module");
        browser.See("#module-add");
        browser.Until("a model is chosen", () => browser.See("#module-add").Enabled);
        browser.Click("#module-add");
        browser.Click("[data-device=A7]");
        browser.SeeText(".pane", "Module at address 7, rail 1");
        browser.SeeText(".enclosure", "324 of 540");
        // A point without a source, by words, onto a terminal of the module.
        browser.Type("#type-terminal", "kiln 1 temperature 7.UI2\n");
        browser.Click("[data-terminal='7.UI2']");
        browser.SeeText(".pane h2", "Kiln temperature");
        browser.SeeText(".pane", "KH-C2-W");
        // A kiln is hotter than a thermometer of IEC 60751 reaches, so a transmitter is taken for it; of the outdoor thermometer the wires and the class are chosen.
        browser.SeeText(".pane", "0–10 V");
        browser.Click("[data-terminal=UI1]");
        browser.See(".pane [aria-label=Wires]");
        browser.See(".pane [aria-label='Class of accuracy']");
        // To the other rail, and there it stays wired.
        browser.Click("[data-device=A7]");
        browser.ClickText(".pane button", "To rail 2");
        browser.SeeText(".pane", "Module at address 7, rail 2");
        browser.See("[data-terminal='7.UI2'].ok, [data-terminal='7.UI2'].trouble");
        // A larger one in its place keeps the point on its terminal.
        browser.Click("[data-act=exchange]");
        browser.Choose("[aria-label='The model that comes']", "16 universal inputs");
        browser.SeeText("[role=dialog]", "1 points stay on their terminals");
        browser.Click("#exchange-do");
        browser.SeeText(".pane", "16 universal inputs");
        browser.See("[data-terminal='7.UI16']");
        // What goes with it is shown before it goes.
        browser.Click("[data-act=remove-module]");
        browser.SeeText("[role=alertdialog]", "Removes 2 records");
        browser.Click("#remove-do");
        browser.Until("the module is gone", () => browser.Count("[data-device=A7]") == 0);
    }

    [Fact]
    public void Points_are_fitted_with_modules_added_where_they_must_be()
    {
        using Browser browser = Enter("/wire/kh-c2");
        browser.Click("#fit");
        browser.SeeText(".sheet", "points without a source fit onto KH-C2");
        browser.See("#fit-together");
        browser.Click("#fit-add");
        browser.SeeText(".sheet", "Nothing better can be");
    }

    [Fact]
    public void A_curve_is_made_from_words_and_a_slip_is_told()
    {
        using Browser browser = Enter("/wire/curves");
        browser.Click("#add-curve");
        browser.Type("#curve-name", "Shelf probe");
        browser.Type("#curve-points", "9200 = -10; 5000 = ten");
        browser.Click("#curve-do");
        browser.SeeText("body", "is no point of a curve");
        browser.Type("#curve-points", "9200 = -10; 5000 = 10; 2500 = 30");
        browser.Click("#curve-do");
        browser.SeeText("tr[data-row]", "Shelf probe");
        browser.See("svg[aria-label='Curve Shelf probe'] polyline");
    }

    [Fact]
    public void A_catalogue_file_is_taken_or_told_line_by_line()
    {
        string good = """{"format": "lofty-wren-hardware-1", "models": [ { "id": "shelf-4", "name": "Shelf module", "kind": "module", "widthMillimetres": 36,""" + "\n" + """ "groups": [ { "prefix": "UI", "name": "Inputs", "count": 4, "direction": "in", "signals": ["pt1000"] } ] } ] }""";
        string folder = Directory.CreateTempSubdirectory().FullName, right = Path.Combine(folder, "right.json"), wrong = Path.Combine(folder, "wrong.json");
        File.WriteAllText(right, good);
        File.WriteAllText(wrong, good.Replace("pt1000", "pt2000", StringComparison.Ordinal));
        using Browser browser = Enter("/wire/catalogue");
        browser.Give("#catalogue-file", wrong);
        browser.SeeText(".sheet", "line 2: There is no signal ‘pt2000’");
        browser.Give("#catalogue-file", right);
        browser.SeeText(".sheet", "Shelf module (shelf-4)");
        browser.Click("#catalogue-take");
        browser.SeeText("body", "27 models");
        Directory.Delete(folder, true);
    }

    [Fact]
    public void Lists_follow_from_the_panels()
    {
        using Browser browser = Enter("/wire/lists?list=parts");
        browser.SeeText("tr:last-child", "Total");
        browser.ClickText("label, .n-radio-button", "Cable list");
        browser.SeeText("tbody", "KH-C1-W001");
        browser.Open("/wire/lists?list=labels&of=kh-c1");
        browser.SeeText(".strip", "UI1");
        // The controller, and the mixed module beside it.
        Assert.Equal(2, browser.Count("section h2"));
    }

    /// <summary>At the panel with a phone: an input compared, an output driven and let go, one entered without a connection that goes when there is one.</summary>
    [Fact]
    public void Points_are_proved_at_the_panel_with_a_phone()
    {
        using var browser = new Browser(demo.Running.Address, 390, 844);
        browser.EnterDemoAs("technician");
        browser.Open("/commission/check/kh-c3");
        browser.SeeText(".card", "wired, and answers as such a signal does");
        browser.Type("#check-reference", "500");
        browser.Click("[data-act=compare]");
        browser.SeeText("[role=status]", "Failed");
        browser.Click("[data-act=next]");
        // An output: on, let go by itself when its verdict is in.
        browser.Click("[data-check=RO1]");
        browser.Click("[data-card=RO1] [data-step='1']");
        browser.SeeText(".card", "goes back by itself");
        browser.Click("[data-act=pass]");
        browser.SeeText("[role=status]", "It drove what it should");
        browser.SeeText("[data-check=RO1]", "✓");
        // Out of reach: what is entered stays here, and goes when the server answers.
        browser.Click("[data-check=RO2]");
        browser.Script("window.realFetch = window.fetch; window.fetch = () => Promise.reject(new TypeError('offline'))");
        browser.Click("[data-card=RO2] [data-act=fail]");
        browser.SeeText("[role=status]", "kept on this device");
        browser.SeeText(".page", "1 kept here until the server answers");
        browser.Script("window.fetch = window.realFetch");
        browser.Until("it has gone", () => !browser.Page().Contains("kept here", StringComparison.Ordinal));
        browser.Open("/commission/check");
        browser.SeeText("tr[data-row]", "KH-C3");
        browser.SeeText("main", "2 failed");
    }

    /// <summary>The drying room's sensor has an adjuster beside it; a plain one comes, the adjuster goes, and nothing is left of it.</summary>
    [Fact]
    public void A_room_unit_with_an_adjuster_is_replaced_by_a_plain_sensor_in_one_task()
    {
        using Browser browser = Enter("/wire/kh-c1");
        browser.See("[data-terminal=BI4]");
        browser.Script("""
            const send = (url, body) => { const x = new XMLHttpRequest(); x.open('POST', url, false); x.setRequestHeader('content-type', 'application/json'); x.setRequestHeader('X-Lofty-Wren', '1'); x.send(JSON.stringify(body)); if (x.status != 200) throw x.responseText };
            const x = new XMLHttpRequest(); x.open('GET', '/api/records/kiln-temp', false); x.send();
            const owner = JSON.parse(x.responseText).record.ownerId;
            send('/api/changes', { edits: [{ put: { type: 'point', id: 'adjuster', name: 'Adjuster', ownerId: owner, kind: 'binary', role: 'sensor', stateTexts: ['up', 'down'] }, from: 0 }] });
            send('/api/controllers/kh-c1/terminals', { pointId: 'adjuster', terminal: 'BI4' });
            """);
        browser.Open("/wire/replace/kiln-temp");
        browser.Choose("[aria-label='Signal of what comes']", "Ni1000");
        browser.Choose("[aria-label='Class of what comes']", "standard");
        browser.Click("#replace-next");
        browser.Click("[data-goes=adjuster]");
        browser.SeeText(".uses", "terminal BI4");
        browser.Click("#replace-look");
        browser.SeeText("main", "signal: pt1000 → ni1000");
        browser.SeeText("main", "− point Adjuster");
        browser.Until("it can be done", () => browser.See("#replace-do").Enabled);
        browser.Click("#replace-do");
        browser.SeeText("main", "Nothing refers to what has gone");
        browser.ClickText("main a", "Check the point");
        browser.SeeText("[data-check=UI1]", "Room temperature");
        Assert.Equal(0, browser.Count("[data-check=BI4]"));
    }

    [Fact]
    public void A_controller_loses_its_supply_and_comes_back_and_each_phase_is_told()
    {
        using var browser = new Browser(demo.Running.Address);
        browser.EnterDemoAs("technician");
        browser.Open("/commission/bn-c1");
        browser.Click("[data-order=powerOff]");
        browser.Type("#order-why", "fuse changed");
        browser.Click("#order-do");
        browser.SeeText("[data-state]", "Not heard since");
        browser.Click("[data-order=powerOn]");
        browser.Type("#order-why", "fuse is in again");
        browser.Click("#order-do");
        browser.SeeText("[data-state]", "runs its program");
        foreach (string phase in new[] { "off", "loader", "runtime", "application", "running" }) browser.SeeText("[data-state] td", phase);
        browser.SeeText("[data-state]", "its supply came back");
        browser.Click("#rehearse");
        browser.SeeText("[data-rehearsal]", "by hand and");
    }
}
