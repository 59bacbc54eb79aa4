using System.Globalization;
using System.Text;
using OpenQA.Selenium;

namespace LoftyWren.Ui.Tests;

/// <summary>A building from a spreadsheet and templates, and what goes wrong on the way.</summary>
public class ListsAndTemplatesTests
{
    private static string File(string name, string text)
    {
        string path = Path.Combine(Directory.CreateTempSubdirectory("lofty-wren-list-").FullName, name);
        System.IO.File.WriteAllText(path, text, Encoding.UTF8);
        return path;
    }

    private static Browser Begin(Running running)
    {
        var browser = new Browser(running.Address);
        browser.Type("#code", running.Code);
        browser.Type("#name", "keeper");
        browser.Type("#password", "quay-side-9");
        browser.Click("form [type=submit]");
        browser.Type("#site-name", "Saltmarsh Pottery");
        browser.Choose("#site-zone", "Europe/London");
        browser.ClickText("button", "Make the site");
        // A page that is left while the site is being made would take the request away with it.
        browser.SeeText(".where", "Saltmarsh Pottery");
        return browser;
    }

    [Fact]
    public void Three_floors_and_thirty_rooms_are_built_in_under_forty_moves()
    {
        var list = new StringBuilder("Rooms of the pottery\nBuilding,Storey,Level,Room,Area m2\n");
        string[] floors = ["Ground floor", "First floor", "Second floor"];
        for (int i = 0; i < 30; i++) list.Append(CultureInfo.InvariantCulture, $"{(i == 0 ? "Kiln House" : "")},{(i % 10 == 0 ? floors[i / 10] : "")},{(i % 10 == 0 ? i / 10 : "")},Room {i + 1},{20 + i}\n");
        string rooms = File("rooms.csv", list.ToString());
        string points = File("points.csv", "Building,Floor,Room,Equipment,Point name,Type,Units\nKiln House,Ground floor,Room 1,Door set,Door contact,DI,\n,,,,Outdoor temperature,AI,degC\n");
        using var running = new Running(empty: true);
        using Browser browser = Begin(running);

        // The architect's list: read, looked at, taken.
        browser.ClickText("a", "import a list");
        browser.Give("#file", rooms);
        browser.SeeText("[data-choice=adds]", "+ adds 30");
        browser.SeeText(".page", "adds 30 rooms");
        browser.Click("#apply");
        browser.SeeText("h1", "Kiln House");
        browser.SeeText(".fact", "30 rooms");

        // A few points of a second list.
        browser.ClickText(".tabs a", "Import");
        browser.Give("#file", points);
        browser.SeeText("[data-choice=adds]", "+ adds 2");
        browser.Click("#apply");

        // A fan-coil into every room, lights on one floor, one air handler.
        browser.ClickText(".tabs a", "Library");
        Place(browser, "Fan-coil, four-pipe", "", "Place 30");
        Place(browser, "Switched lighting group", "first floor", "Place 10");
        Place(browser, "Air handler with mixed air", "room 30", "Place 1");
        browser.ClickText(".tabs a", "Tags");
        browser.Click("#starter-rules");
        browser.Type("#filter", "point and cooling and valve");
        browser.SeeText("[data-choice=match]", "31 match");
        browser.ClickText(".tabs a", "Findings");
        browser.SeeText("h1", "Findings");
        Assert.Equal(0, browser.Count("td.wrong"));
        Assert.InRange(browser.Moves, 10, 39);
        browser.ClickText(".tabs a", "Section");
        browser.SeeText(".fact", "42 equipment");
        browser.SeeText(".fact", "239 points");

        // All 239 rows are selected and copied, though a screenful is drawn and a page of 200 was fetched at first.
        browser.SeeText(".points .fact", "239");
        Assert.InRange(browser.Count(".points tbody tr"), 5, 80);
        browser.Script("document.querySelector(\"[data-cell='0,0']\").focus()");
        browser.Script("document.activeElement.dispatchEvent(new KeyboardEvent('keydown', { key: 'End', ctrlKey: true, shiftKey: true, bubbles: true }))");
        const string copy = """
            const carry = new DataTransfer();
            document.querySelector('section.points').dispatchEvent(new ClipboardEvent('copy', { bubbles: true, cancelable: true, clipboardData: carry }));
            return carry.getData('text/plain');
            """;
        browser.Until("have every row at hand", () => ((string)browser.Script(copy)!).Split('\n').Length == 239);
        Assert.All(((string)browser.Script(copy)!).Split('\n'), line => Assert.NotEqual("", line.Split('\t')[0]));
        Assert.Empty(browser.Complaints());
    }

    [Fact]
    public void A_list_with_bad_cells_names_them_and_the_good_rows_can_be_taken()
    {
        string list = File("mixed.csv", "Building,Floor,Room,Area,Point,Type,Unit\nBarn,Loft,Study,20,Temperature,AI,°C\nBarn,Loft,Attic,big,Temperature,Fühler,°C\n");
        using var running = new Running(empty: true);
        using Browser browser = Begin(running);
        browser.Open("/list/import");
        browser.Give("#file", list);
        browser.SeeText(".bar.high", "list D3");
        browser.SeeText(".bar.high", "‘big’ is not a number");
        browser.SeeText(".bar.high", "‘Fühler’ is not a type of point");
        Assert.False(browser.See("#apply").Enabled);
        // The list's own word is told once, and stays told.
        browser.Choose("[aria-label='Words of']", "Type");
        browser.Type("[aria-label='The list’s word']", "Fühler");
        browser.Type("[aria-label='Our word']", "AI");
        browser.ClickText("button", "Use it");
        browser.Until("be left with one bad cell", () => browser.Count(".bar.high") == 1);
        browser.ClickText("button", "Apply the good rows");
        browser.SeeText(".room b", "Study");
        Assert.DoesNotContain("Attic", browser.Page());
        browser.Open("/list/import");
        browser.Give("#file", list);
        browser.SeeText("[data-choice=same]", "1");
        browser.Until("remember the word", () => browser.Count(".bar.high") == 1);
        string broken = File("broken.csv", "a,b\n\"never closed,1\nx,y\n");
        browser.Give("#file", broken);
        browser.SeeText("body", "A quotation mark is opened in row");
    }

    [Fact]
    public void Finished_equipment_becomes_a_template_and_a_changed_placement_is_compared_with_it()
    {
        using var running = new Running(empty: false);
        using var browser = new Browser(running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open("/library");
        browser.Type("[aria-label='Name of a new library']", "House");
        browser.ClickText("form button", "Make");
        browser.SeeText("[aria-label=Libraries]", "House");
        browser.Open("/plan/work-dust");
        browser.SeeText("[data-tile=work-dust]", "Dust extract").Click();
        browser.ClickText("button", "Properties");
        browser.Click("[data-act=take]");
        browser.SeeText(".take", "House");
        browser.ClickText(".take button", "Take it");
        browser.SeeText(".take .bar", "its terminal is left open");
        browser.Open("/library");
        browser.ClickText(".shelf a", "Dust extract");
        // Its fallback becomes a parameter, in a second revision.
        browser.Click("[data-vary=fallback]");
        browser.SeeText("article", "revision 2");
        browser.Type("#pattern", "Second dust extract");
        browser.Type("[data-parameter=p1]", "1");
        browser.Type("#room-words", "stock room");
        browser.Click("#all-rooms");
        browser.Click("#preview:enabled");
        browser.Click("#place");
        browser.Until("have placed", () => browser.Count("#place") == 0);
        browser.Open("/plan/kh-g-stock-room");
        browser.SeeText(".chip", "Second dust extract").Click();
        browser.ClickText("button", "Properties");
        browser.SeeText(".dossier .fact", "✓ as the template");
        browser.SeeText(".dossier", "dust extract, revision 2");

        // A restore shows what it would take back before it does; Esc closes a box and the focus is back where it was.
        browser.Open("/history");
        browser.Click("[data-choice=snapshots]");
        browser.SeeText("[aria-label=Differences]", "Second dust extract");
        browser.Click("#restore-do");
        browser.Until("have restored", () => browser.Count("#restore-do") == 0);
        browser.Open("/plan/kh-g-stock-room");
        browser.SeeText("section h2", "Stock room");
        browser.Until("be as it was", () => browser.Count(".chip") > 0 && !browser.Page().Contains("Second dust extract"));
        browser.Script("document.querySelector('[data-tile=kh-g-stock-room]').focus()");
        browser.Press("m");
        browser.See("[role=dialog] input");
        browser.Press(Keys.Escape);
        browser.Until("be closed with the focus back", () => browser.Count("[role=dialog]") == 0 && (string?)browser.Script("return document.activeElement.dataset.tile") == "kh-g-stock-room");
    }

    [Fact]
    public void A_library_for_reading_says_so_a_copy_is_changed_and_references_outward_are_decided()
    {
        using var running = new Running(empty: false);
        using var browser = new Browser(running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open("/library");
        browser.Type("[aria-label='Name of a new library']", "House");
        browser.ClickText("form button", "Make");
        browser.SeeText("[aria-label=Libraries]", "House");
        browser.ClickText(".shelf a", "Fan-coil, two-pipe");
        browser.SeeText("article", "ships with the program and stays for reading");
        browser.Choose("[aria-label='Library to copy into']", "House");
        browser.Click("#copy-template");
        browser.SeeText("article", "Copied from Starter");
        browser.Click("#edit-parameters");
        browser.Type(".parameters [aria-label^='Highest']", "24");
        browser.ClickText(".parameters button", "Save as revision 2");
        browser.SeeText("article", "revision 2");
        // Closed for writing, it says so before anybody tries.
        browser.Click("[aria-label='Close House for writing']");
        browser.SeeText("article", "House is for reading");
        Assert.Equal(0, browser.Count("#edit-parameters"));
        browser.Click("#open-writing");
        browser.See("#edit-parameters");

        // The kiln room's extract reads the room's temperature and runs on a controller: both lead outward.
        browser.Open("/plan/kh-1-kiln-room");
        browser.SeeText(".chip", "Extract").Click();
        browser.ClickText("button", "Properties");
        browser.Click("[data-act=take]");
        browser.SeeText(".take", "House");
        browser.Type("[aria-label='Name of the template']", "Kiln extract");
        browser.ClickText(".take button", "Take it");
        browser.SeeText(".take .bar", "its terminal is left open");
        browser.Open("/library");
        browser.ClickText(".shelf a", "Kiln extract");
        browser.SeeText("[aria-label='References outward']", "→ KH-C1");
        browser.Type("#room-words", "stock room");
        browser.Click("#all-rooms");
        browser.Type("#pattern", "Second extract");
        int all = browser.Count("[aria-label='References outward'] .bar");
        browser.ClickText("[aria-label='References outward'] button", "Choose anew");
        browser.SeeText(".rooms", "Decide first where 1 of the references lead");
        browser.ClickText("[aria-label='References outward'] button", "Leave open");
        browser.SeeText("[aria-label='References outward']", "left open");
        Assert.True(all >= 2);
        browser.Click("#preview:enabled");
        browser.SeeText("#place", "Place 1");
        browser.Click("#place:enabled");
        browser.Until("have placed", () => browser.Count("#place") == 0);
        Assert.Empty(browser.Complaints());
    }

    [Fact]
    public void A_panel_is_taken_as_a_template_and_hung_in_another_room()
    {
        using var running = new Running(empty: false);
        using var browser = new Browser(running.Address);
        browser.EnterDemoAs("engineer");
        browser.Open("/library");
        browser.Type("[aria-label='Name of a new library']", "House");
        browser.ClickText("form button", "Make");
        browser.SeeText("[aria-label=Libraries]", "House");
        browser.Open("/wire/kh-c1");
        browser.Click("[data-act=dossier]");
        browser.Click("[data-act=take]");
        browser.SeeText(".take", "House");
        browser.ClickText(".take button", "Take it");
        browser.See(".take .bar");
        browser.Open("/library");
        browser.ClickText(".shelf a", "KH-C1");
        browser.Type("#room-words", "electrical");
        browser.Click("#all-rooms");
        browser.Type("#pattern", "KH-C9");
        browser.Click("#preview:enabled");
        browser.SeeText("#place", "Place 1");
        browser.Click("#place:enabled");
        browser.Until("have placed", () => browser.Count("#place") == 0);
        browser.Open("/wire");
        browser.SeeText("main", "KH-C9");
    }

    private static void Place(Browser browser, string template, string words, string says)
    {
        browser.ClickText(".shelf a", template);
        browser.SeeText("h2", template);
        if (words.Length > 0) browser.Type("#room-words", words);
        browser.Click("#all-rooms");
        browser.Click("#preview:enabled");
        browser.SeeText("#place", says);
        browser.Click("#place");
        browser.Until("have placed", () => browser.Count("#place") == 0);
    }
}
