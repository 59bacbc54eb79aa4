using OpenQA.Selenium;

namespace LoftyWren.Ui.Tests;

/// <summary>One server with the demo for all tests of this file; they leave no lasting mark on one another.</summary>
public sealed class DemoServer : IDisposable
{
    public Running Running { get; } = new(empty: false);

    public void Dispose() => Running.Dispose();
}

/// <summary>The demo as its users meet it.</summary>
public class DemoTests(DemoServer demo) : IClassFixture<DemoServer>
{
    private Browser Enter(string account, int width = 1280, int height = 800)
    {
        var browser = new Browser(demo.Running.Address, width, height);
        browser.EnterDemoAs(account);
        return browser;
    }

    [Fact]
    public void The_kiln_room_story_holds_through_the_interface()
    {
        using Browser browser = Enter("engineer");
        // Tuesday 10:36 at the start; Wednesday in opening hours is a day away.
        RunTo(browser, "Wed 2026-04-15 1");
        Read(browser, 25.0);
        Fan(browser, "Extract fan is on: claim 15 Opening hours says on");
        RunTo(browser, "Wed 2026-04-15 2");
        Fan(browser, "Extract fan is off: claim 15 Opening hours says off");
        Read(browser, 29.6);
        Fan(browser, "Extract fan is on: claim 9 High temperature says on");
        Read(browser, 27.4);
        Fan(browser, "Extract fan is on: claim 9 High temperature says on");
        Read(browser, 26.9);
        Fan(browser, "Extract fan is off: claim 15 Opening hours says off");

        // With “command off” chosen instead, the finding says why before anything is sent.
        browser.Open("/program/kiln-seq");
        browser.Click("[data-block=twoPosition]");
        browser.Choose("[data-choice=idle][role=combobox]", "command off");
        browser.SeeText(".bar.high", "On ‘Extract fan’, claim 15 ‘Opening hours’ can never speak.");
        browser.SeeText(".site .ahead", "ahead of");
        browser.ClickText(".bar.high button", "Let ‘High temperature’ release when idle");
        browser.SeeText(".fact", "checks pass");
        Release(browser);
        Assert.Empty(browser.Complaints());
    }

    [Fact]
    public void An_edit_reaches_the_other_open_client_and_can_be_undone_from_the_keyboard()
    {
        using Browser one = Enter("engineer"), other = Enter("viewer");
        one.Open("/plan/kh");
        other.Open("/plan/kh");
        other.SeeText(".room", "Glaze store");
        one.SeeText(".room b", "Glaze store").Click();
        one.Press(Keys.F2);
        one.Type("[data-rename]", "Glaze room" + Keys.Enter);
        other.SeeText(".room", "Glaze room");
        one.SeeText(".room", "Glaze room");
        one.Control("z");
        other.SeeText(".room", "Glaze store");
        one.Open("/history");
        one.SeeText("td", "Undid: Renamed room ‘Glaze store’ to ‘Glaze room’");
        Assert.Equal(0, other.Count("#add"));
    }

    [Fact]
    public void Find_or_do_finds_words_in_any_order_by_keyboard_alone()
    {
        using Browser browser = Enter("engineer");
        browser.See("h1");
        browser.Control("k");
        browser.Type("#find", "fan kiln extr");
        browser.SeeText("#find-list li", "Kiln room");
        browser.Type("#find", "throwing lights seq");
        browser.Type("#find", "lights throwing studio");
        browser.SeeText("#find-list li.on", "Throwing studio lights");
        browser.Press(Keys.Enter);
        browser.SeeText("h1", "Throwing studio lights");
    }

    [Fact]
    public void A_removal_shows_all_that_goes_and_all_that_depends_first()
    {
        using Browser browser = Enter("engineer");
        browser.Open("/plan/kh");
        browser.SeeText(".room b", "Workshop").Click();
        browser.Press(Keys.Delete);
        browser.SeeText("[role=alertdialog]", "Dust extract");
        browser.SeeText("[role=alertdialog]", "goes along");
        browser.ClickText("[role=alertdialog] button", "Keep it");
        browser.SeeText(".room", "Workshop");
        browser.Open("/supervise");
        browser.SeeText("td", "Opening hours");
        browser.Do("Opening hours", "Remove…");
        browser.SeeText("[role=alertdialog]", "loses its link");
        browser.SeeText("[role=alertdialog]", "Throwing studio lights");
    }

    // The kiln room's sensor goes; what the extract's sequence read of it, it reads of the drying room from then on.
    [Fact]
    public void Before_a_removal_another_takes_the_place_of_what_goes()
    {
        using Browser browser = Enter("engineer");
        browser.Open("/program/kiln-seq");
        browser.Open("/operate/kh-1");
        browser.Click("[data-room=kh-1-kiln-room]");
        browser.ClickText(".dossier button", "Room temperature");
        browser.SeeText(".dossier h3", "And through these");
        browser.SeeText(".dossier", "by Kiln room extract");
        browser.Click(".dossier [data-act=remove]");
        browser.Choose("[data-use=kiln-seq] [role=combobox]", "gets another");
        browser.SeeText("[role=alertdialog]", "Choose what takes the place");
        browser.Type("[data-use=kiln-seq] input", "drying room temperature");
        browser.ClickText(".n-base-select-option, [role=option]", "Room temperature");
        browser.Until("it can be done", () => browser.See("#remove-do").Enabled);
        browser.Click("#remove-do");
        browser.Until("the dossier has gone", () => browser.Count("[role=alertdialog]") == 0);
        browser.Open("/program/kiln-seq");
        browser.SeeText("main", "UI2");
        browser.Control("z");
        browser.Open("/plan/kh-1-kiln-room");
        browser.SeeText("tr", "Room temperature");
    }

    [Fact]
    public void An_operator_holds_an_output_from_a_phone_and_lets_it_go()
    {
        using Browser browser = Enter("operator", 390, 844);
        browser.Open("/operate/kh-1");
        browser.Click("[data-room=kh-1-throwing-studio]");
        browser.ClickText(".dossier button", "Heating valve");
        browser.ClickText(".dossier button", "Hold by hand");
        browser.Type("#hold-value", "400");
        browser.Type("#hold-why", "valve exercise" + Keys.Enter);
        browser.SeeText("body", "400 is not a value ‘Heating valve’ can take");
        browser.Type("#hold-value", "40");
        browser.Type("#hold-why", "valve exercise" + Keys.Enter);
        browser.SeeText(".dossier .big", "40.0 %");
        browser.SeeText(".because", "held by hand by operator");
        browser.Open("/operate/held");
        browser.Do("valve exercise", "Release");
        browser.Until("let it go", () => !browser.Page().Contains("valve exercise"));
        Assert.Equal(0, browser.Count(".site"));
    }

    [Fact]
    public void A_room_answers_why_for_all_that_is_in_it()
    {
        using Browser browser = Enter("viewer");
        browser.Open("/operate/kh-1");
        browser.Click("[data-room=kh-1-kiln-room]");
        browser.SeeText(".dossier .because", "Extract: Extract fan is");
        browser.SeeText(".dossier .because", "Kiln 1: Kiln temperature has no value: it is on no terminal");
        browser.Click("[data-room=kh-1-glaze-store]");
        browser.SeeText(".dossier h2", "Glaze store");
        browser.Until("speak of this room", () => !browser.See(".dossier").Text.Contains("Kiln temperature"));
    }

    [Fact]
    public void An_input_pin_shows_what_arrives_at_it()
    {
        using Browser browser = Enter("viewer");
        browser.Open("/program/kiln-seq");
        Assert.Matches(@"^\d+\.\d °C$", browser.SeeText("[data-arrives=measured]", "°C").Text.Trim());
        Assert.Equal("29.0 °C", browser.SeeText("[data-arrives=limit]", "°C").Text.Trim());
    }

    [Fact]
    public void Sending_clears_what_the_design_is_ahead()
    {
        using Browser browser = Enter("technician");
        browser.SeeText(".site .ahead", "ahead of KH-C4");
        browser.ClickText(".site a", "Review & send");
        browser.SeeText("body", "fallback");
        browser.SeeText("body", "19.5");
        browser.Click("#send");
        browser.SeeText(".fact", "runs version 2");
        browser.ClickText("button", "Read back and compare");
        browser.SeeText("body", "KH-C4 runs exactly the design.");
    }

    [Fact]
    public void The_schedule_page_shows_both_clock_changes()
    {
        using Browser browser = Enter("viewer");
        browser.Open("/supervise/schedules/hours");
        browser.SeeText(".span", "09:00–17:30");
        browser.Type("[aria-label='From date']", "2026-03-28" + Keys.Enter);
        browser.SeeText(".daylist p", "clocks go forward: 23 h");
        // Sunday 10:00 in British Summer Time is 09:00 UTC; on Saturday, before the change, it is 10:00 UTC.
        browser.SeeText(".daylist p", "(10:00Z–16:00Z)");
        browser.SeeText(".daylist p", "(09:00Z–15:00Z)");
    }

    [Fact]
    public void A_connection_of_the_wrong_unit_is_refused_with_the_reason()
    {
        using Browser browser = Enter("engineer");
        browser.Open("/program/dry-humid-seq");
        browser.Click("[data-block=twoPosition]");
        browser.Type("input[data-pin=limit]", "29 °C");
        browser.SeeText("[role=option]", "29 °C");
        browser.See("input[data-pin=limit]").SendKeys(Keys.Enter);
        browser.SeeText("body", "‘Too dry’ takes a relative humidity (%RH), not a temperature (°C).");
        browser.Press(Keys.Tab);
        browser.Until("keep the old source", () => browser.See("input[data-pin=limit]").GetDomProperty("value") == "Humidity setpoint");
    }

    private static void RunTo(Browser browser, string clock)
    {
        browser.Click(".speeds [data-choice='3600']");
        browser.Until($"reach {clock}", () => browser.TextOf(".clock").StartsWith(clock, StringComparison.Ordinal));
        browser.Click(".speeds [data-choice='60']");
    }

    /// <summary>Sets the room's sensor by hand, over whatever it is held at already.</summary>
    private static void Read(Browser browser, double celsius)
    {
        OpenSensor(browser);
        browser.Click("[data-act=hold]");
        browser.Type("#hold-value", celsius.ToString("0.0", System.Globalization.CultureInfo.InvariantCulture));
        browser.Choose("#hold-until", "until released");
        browser.Type("#hold-why", "the story" + Keys.Enter);
        browser.Until("have it held", () => browser.Count("form.hold") == 0);
        browser.SeeText(".dossier .big", $"{celsius:0.0}");
    }

    private static void Release(Browser browser)
    {
        OpenSensor(browser);
        browser.Click("[data-act=release]");
        browser.Until("be released", () => browser.Count("[data-act=release]") == 0);
    }

    private static void OpenSensor(Browser browser)
    {
        browser.Open("/plan/kh-1-kiln-room");
        browser.Until("see the row", () => browser.SeeText("tr", "Room temperature").FindElements(By.CssSelector(".now")).Count > 0);
        browser.SeeText("tr", "Room temperature").FindElement(By.CssSelector(".now")).Click();
        browser.SeeText(".dossier h2", "Room temperature");
    }

    private static void Fan(Browser browser, string because)
    {
        browser.Open("/plan/kh-1-kiln-room");
        browser.Until("see the row", () => browser.SeeText("tr", "Extract fan").FindElements(By.CssSelector(".now")).Count > 0);
        browser.SeeText("tr", "Extract fan").FindElement(By.CssSelector(".now")).Click();
        browser.SeeText(".because", because);
    }
}
