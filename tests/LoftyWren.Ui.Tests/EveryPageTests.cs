using System.Text.Json;
using System.Text.RegularExpressions;
using OpenQA.Selenium;

namespace LoftyWren.Ui.Tests;

/// <summary>What holds of every page and dialog: that everybody can use it.</summary>
public partial class EveryPageTests(DemoServer demo) : IClassFixture<DemoServer>
{
    /// <summary>What opens over pages: where, how, and what is seen of it then. A text between quotation marks is typed as keys.</summary>
    private static readonly (string Page, string[] Opens, string See)[] Dialogs =
    [
        ("/plan/kh", ["#add"], "[role=dialog] #add-name"),
        ("/plan/kh", ["[data-tile=kh-g-stock-room]", "'m'"], "#move-to"),
        ("/plan/kh", ["[data-tile=kh-g-workshop]", "'Delete'"], "[role=alertdialog] #remove-do"),
        ("/plan/kh", [".points .head button:last-of-type"], ".n-popover [aria-label='Role further left']"),
        ("/plan/kh-1-kiln-room", ["tr .now", "[data-act=hold]"], ".dossier #hold-why"),
        ("/plan/kh", [".crumb"], ".columns"),
        ("/plan/kh", [".who"], ".n-popover #sign-out"),
        ("/history", ["'?'"], "[aria-label=Keys]"),
        ("/history", ["'Ctrl+k'"], "[aria-label='Find or do'] #find"),
        ("/wire/groups", ["tr[data-row]", "'b'"], "[role=dialog] #bind-do"),
        ("/wire/groups", ["tr[data-row]", "'m'"], "[role=dialog] #shift-do"),
        ("/wire/groups", ["tr[data-row]", "'o'"], "[role=dialog] #join-do"),
        ("/wire", ["#add-controller"], "[role=dialog] #ctl-where"),
        ("/wire", ["tr[data-row] td:last-child button"], ".n-dropdown-menu"),
        ("/wire/kh-c1", ["#add-module"], "[role=dialog] #module-add"),
        ("/wire/kh-c1", ["[data-device='KH-C1']", "[data-act=exchange]"], "[role=dialog] #exchange-do"),
        ("/wire/kh-c1", ["#fit"], "#fit-apply"),
        ("/wire/curves", ["#add-curve"], "[role=dialog] #curve-points"),
        ("/wire/bus", ["#add-bus-device"], "[role=dialog] #dev-in"),
        ("/wire/bus", ["#add-line"], "[role=dialog] #line-number"),
        ("/wire/bus/bus-dim-1", ["#copy-channel"], "[role=dialog] #copy-do"),
        ("/wire/bus/bus-dim-1?lens=objects", ["[data-channel=output1]"], "[data-object='output1.switch']"),
        ("/wire/bus/bus-store-presence?lens=story", ["#lay-over"], "[aria-label='Words of a parameter to lay over']"),
        ("/wire/bus-table", ["tr[data-row] td:last-child button", ".n-dropdown-option-body"], "[role=dialog] [aria-label=Parameter]"),
        ("/wire/conversations", ["#add-conversation"], "[role=dialog] #conv-in"),
        ("/wire/conversations", ["#furnish"], "[role=dialog] #furnish-do"),
        ("/commission/bus", ["#keys"], "[role=dialog] #passphrase-do"),
        ("/commission/bus", ["[data-row=bus-dim-1] td:first-child", "#sticker"], "[role=dialog] svg[role=img]"),
        ("/commission/bus", ["[data-row=bus-dim-1] td:first-child", "#label-scan"], "[role=dialog] [role=status]"),
        ("/program", ["#add-sequence"], "[role=dialog] #seq-of"),
        ("/program/kiln-seq", ["[data-block=twoPosition]"], ".inspect [aria-label=Kind]"),
        ("/program/vent-seq", ["[aria-label='What to do with mode Course']", ".n-dropdown-option-body"], ".modes .more"),
        ("/program/hp-seq", ["'Ctrl+a'"], "#own-name"),
        ("/program/kiln-seq", ["#paste-clauses"], "#clause-text"),
        ("/program/kiln-seq", ["#break"], ".breaking .fact"),
        ("/program/kiln-seq", [".tests li > .acts button[aria-expanded=false]"], ".stepform [aria-label='Kind of step']"),
        ("/program/shop-seq", ["[data-block=pid]", "#tune", "#try-loop"], "[role=dialog] .take"),
        ("/plan/kh-1-kiln-room", ["tr .now", "[data-act=hold]", ".hold [data-choice=course]"], ".hold [aria-label=Course]"),
        ("/program/kiln-seq", ["[data-choice=ledger]"], "#ledger"),
        ("/program/older", ["#convert"], "[role=alertdialog] #convert-now"),
        ("/supervise", ["#add-schedule"], "[role=dialog] #sch-name"),
        ("/supervise/alarms", ["#add-alarm"], "[role=dialog] #alarm-point"),
        ("/projects", ["#make-project"], "[role=dialog] #project-name"),
        ("/names", ["#rule-for"], ".n-base-select-option"),
        ("/tags", ["[data-choice=rules]", ".tools button"], "[role=dialog] [aria-label=Condition]"),
        ("/operate/kh-1", ["[data-room=kh-1-kiln-room]"], ".dossier .because"),
    ];

    private static readonly string Axe = File.ReadAllText(System.IO.Path.Combine(Running.Root(), "client/node_modules/axe-core/axe.min.js"));

    [Fact]
    public void The_list_of_pages_is_that_of_the_manifest()
    {
        string manifest = File.ReadAllText(System.IO.Path.Combine(Running.Root(), "client/src/pages.ts"));
        foreach (Match path in PagePath().Matches(manifest))
        {
            // A place of the path stands for any record, or for none.
            string pattern = "^" + Regex.Replace(path.Groups[1].Value, "/:[a-z]+(\\?)?", m => m.Groups[1].Success ? "(/[^/]+)?" : "/[^/]+") + "$";
            Assert.Contains(Pages.All.Append("/"), p => Regex.IsMatch(p, pattern));
        }
    }

    /// <summary>The rules of WCAG 2.2, A and AA, as axe-core checks them, and the contrast of the dark theme; what is serious or critical fails.</summary>
    [Fact]
    public void Everybody_can_use_every_page_and_every_dialog_in_both_themes()
    {
        using var browser = new Browser(demo.Running.Address);
        browser.EnterDemoAs("engineer");
        Show(browser, "light");
        // What the site does meanwhile is drawn and looked at as often as it changes; who can use a page does not hang on it.
        browser.ClickText(".site button", "Pause");
        browser.SeeText(".site", "Virtual site paused");
        var wrong = new List<string>();
        // A colour that is on its way to the other is neither.
        browser.Script("document.head.appendChild(document.createElement('style')).textContent = '* { transition: none !important; animation: none !important }'");
        foreach (string page in Pages.All)
        {
            GoTo(browser, page);
            wrong.AddRange(InBoth(browser).Select(w => $"{page}: {w}"));
        }
        foreach (var (page, opens, see) in Dialogs)
        {
            GoTo(browser, page);
            foreach (string step in opens) Step(browser, step);
            browser.See(see);
            Thread.Sleep(300);
            wrong.AddRange(InBoth(browser).Select(w => $"{page} {string.Join(' ', opens)}: {w}"));
            // What is open closes with its page, for the next may be of the same.
            browser.Press(Keys.Escape);
            browser.GoTo("/accounts");
        }
        browser.ClickText(".site button", "Run");
        Assert.True(wrong.Count == 0, string.Join('\n', wrong.Distinct().Take(40)));
    }

    /// <summary>All rules in the light theme; of the dark one only the contrast can be otherwise.</summary>
    private static List<string> InBoth(Browser browser)
    {
        const string all = "'wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'";
        var wrong = Check(browser, $"{{ type: 'tag', values: [{all}] }}").ToList();
        string paper() => (string)browser.Script("return getComputedStyle(document.body).backgroundColor")!;
        string light = paper();
        Show(browser, "dark");
        browser.Until("be dark", () => paper() != light);
        wrong.AddRange(Check(browser, "{ type: 'rule', values: ['color-contrast'] }").Select(w => $"dark: {w}"));
        Show(browser, "light");
        browser.Until("be light", () => paper() == light);
        return wrong;
    }

    /// <summary>Goes to a page and waits until it is there.</summary>
    private static void GoTo(Browser browser, string page)
    {
        browser.Script("performance.clearResourceTimings()");
        browser.GoTo(page);
        Pages.Settle(browser);
    }

    /// <summary>Chooses a theme as another window of the same person would.</summary>
    private static void Show(Browser browser, string theme) => browser.Script(
        "localStorage.setItem('theme', arguments[0]); dispatchEvent(new StorageEvent('storage', { key: 'theme', newValue: arguments[0], storageArea: localStorage }))", theme);

    private static void Step(Browser browser, string step)
    {
        if (!step.StartsWith('\'')) browser.Click(step);
        else if (step.StartsWith("'Ctrl+", StringComparison.Ordinal)) browser.Control(step[6..^1]);
        else browser.Press(step == "'Delete'" ? Keys.Delete : step[1..^1]);
    }

    private static IEnumerable<string> Check(Browser browser, string rules)
    {
        if (browser.Script("return typeof axe") as string == "undefined") browser.Script(Axe);
        object? found = browser.Script($$"""
            return (async () => {
              const found = await axe.run(document, { runOnly: {{rules}}, resultTypes: ['violations'], preload: false, iframes: false })
              return JSON.stringify(found.violations.filter(v => ['serious', 'critical'].includes(v.impact)).flatMap(v => v.nodes.slice(0, 3).map(n => v.id + ' ' + n.target.join(' ') + ' ' + n.html.slice(0, 140) + ' ' + (n.any[0]?.message ?? n.all[0]?.message ?? ''))))
            })()
            """);
        return JsonSerializer.Deserialize<string[]>((string)found!)!;
    }

    [GeneratedRegex("path: '([^']+)'")]
    private static partial Regex PagePath();
}
