namespace LoftyWren.Ui.Tests;

/// <summary>Several projects in one installation, as an engineer meets them.</summary>
public class ProjectsTests(DemoServer demo) : IClassFixture<DemoServer>
{
    [Fact]
    public void A_project_is_made_copied_compared_and_archived()
    {
        using var browser = new Browser(demo.Running.Address);
        browser.EnterDemoAs("engineer");
        browser.Click("header .project");
        browser.Click("#make-project");
        browser.Type("#project-name", "Boat house");
        browser.ClickText("[role=dialog] button", "Make and open it");
        browser.SeeText("header .project", "Boat house");
        browser.Type("#site-name", "Boat house on the quay");
        browser.ClickText("button", "Make the site");
        browser.SeeText(".where", "Boat house on the quay");
        Assert.StartsWith("/p/boat-house", browser.Path, StringComparison.Ordinal);

        browser.Click("header .project");
        browser.ClickText(".details button", "Copy…");
        browser.Type("#project-name", "Autumn works");
        browser.ClickText("[role=dialog] button", "Copy it");
        browser.SeeText("tbody", "Autumn works");
        browser.ClickText("tr[data-row] b", "Autumn works");
        browser.ClickText(".details a", "Open");
        browser.SeeText("header .project", "Autumn works");
        browser.SeeText(".where", "Saltmarsh Pottery");
        // The live line is the copy's own: an edit here shows here.
        browser.ClickText("nav a", "Plan");
        browser.SeeText("h1", "Kiln House");
        browser.ClickText(".tabs a", "History");
        browser.Click("[data-choice=projects]");
        browser.ClickText("tr[data-row] td", "Saltmarsh Pottery");
        browser.SeeText("[aria-label=Differences]", "They are the same");

        browser.Click("header .project");
        browser.Do("Boat house", "Archive");
        browser.SeeText("tr[data-row]", "archived");
        browser.Do("Boat house", "Bring back");
        browser.Until("be back", () => !browser.See("main").Text.Contains("archived", StringComparison.Ordinal));
        Assert.Empty(browser.Complaints());
    }
}
