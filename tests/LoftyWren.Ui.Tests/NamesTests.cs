namespace LoftyWren.Ui.Tests;

/// <summary>The naming convention as an engineer meets it.</summary>
public class NamesTests(DemoServer demo) : IClassFixture<DemoServer>
{
    [Fact]
    public void A_rule_is_written_tried_as_it_is_typed_and_names_follow_it()
    {
        using var browser = new Browser(demo.Running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open("/names");
        browser.SeeText(".rules", "0 of 9");
        browser.Choose("#rule-for", "floor");
        browser.See("[aria-label='Pattern of floor']");
        browser.Type("[aria-label='Pattern of controller']", "{building} panel");
        browser.SeeText("[role=alert]", "put {name} or a number into it");
        browser.Type("[aria-label='Pattern of controller']", "{building} panel {n}");
        browser.SeeText(".rules .wrong", "9 of 9");
        browser.Click("#save-names");
        browser.SeeText("[data-choice=departures]", "Depart 9");
        browser.Click("#fix-all");
        browser.SeeText("[role=dialog]", "→ KH panel 2");
        browser.Click("#make-changes");
        browser.SeeText("[data-choice=departures]", "Depart 0");
        browser.Open("/wire");
        browser.SeeText("main", "KH panel 1");
        browser.Control("z");
        browser.SeeText("main", "KH-C1");
        Assert.Empty(browser.Complaints());
    }
}
