using System.Collections.Concurrent;
using System.Diagnostics;
using System.Drawing;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;
using OpenQA.Selenium.Interactions;

namespace LoftyWren.Ui.Tests;

/// <summary>A headless Chromium and the few moves a person makes: look, click, type. Each waits until it can be done.</summary>
public sealed class Browser : IDisposable
{
    /// <summary>How long something may take on a machine that is busy with all else: none of the tests measures time.</summary>
    private static readonly TimeSpan Patience = TimeSpan.FromMinutes(5);

    /// <summary>Those that nobody drives now: starting one costs as much as a walk.</summary>
    private static readonly ConcurrentBag<ChromeDriver> Idle = [];
    private readonly ChromeDriver _driver;
    private readonly bool _isSpecial;

    static Browser() => AppDomain.CurrentDomain.ProcessExit += (_, _) =>
    {
        foreach (ChromeDriver driver in Idle) driver.Dispose();
    };

    /// <summary>Opens one that nobody has entered by; with a film (YUV4MPEG2), its camera shows that over and over.</summary>
    public Browser(string address, int width = 1280, int height = 800, string? film = null)
    {
        Address = address;
        _isSpecial = film is not null || width < 500;
        _driver = !_isSpecial && Idle.TryTake(out ChromeDriver? idle) ? idle : Started(film);
        _driver.Manage().Window.Size = new Size(Math.Max(500, width), height);
        if (width < 500) _driver.ExecuteCdpCommand("Emulation.setDeviceMetricsOverride", new Dictionary<string, object?> { ["width"] = width, ["height"] = height, ["deviceScaleFactor"] = 1, ["mobile"] = true });
        _driver.Navigate().GoToUrl(address);
    }

    public string Address { get; }

    /// <summary>How many moves have been made: clicks, texts typed, choices, files given, pages gone to.</summary>
    public int Moves { get; private set; }

    public void Open(string path)
    {
        Moves++;
        _driver.Navigate().GoToUrl(Address + path);
    }

    /// <summary>Goes to a page as a link does, without loading all anew.</summary>
    public void GoTo(string path)
    {
        Moves++;
        Script("return document.querySelector('#app').__vue_app__.config.globalProperties.$router.push(arguments[0])", path);
    }

    /// <summary>Gives a file to a file field.</summary>
    public void Give(string selector, string file)
    {
        Moves++;
        Until($"give a file to {selector}", () => _driver.FindElements(By.CssSelector(selector)).FirstOrDefault()).SendKeys(file);
    }

    public string Path => new Uri(_driver.Url).AbsolutePath;

    /// <summary>The element, once it is there and shown.</summary>
    public IWebElement See(string selector) => Until($"see {selector}", () => Shown(selector, ""));

    /// <summary>The element of a kind whose text contains some words.</summary>
    public IWebElement SeeText(string selector, string text) => Until($"see ‘{text}’ in {selector}", () => Shown(selector, text));

    public void Click(string selector) => Act($"click {selector}", () => Standing(See(selector)).Click());

    public void ClickText(string selector, string text) => Act($"click ‘{text}’", () => Standing(SeeText(selector, text)).Click());

    public void Type(string selector, string text) => Act($"type into {selector}", () =>
    {
        IWebElement element = See(selector);
        element.SendKeys(Keys.Control + "a");
        element.SendKeys(text);
    });

    /// <summary>Keys to whatever has the focus.</summary>
    public void Press(string keys) => new Actions(_driver).SendKeys(keys).Perform();

    /// <summary>Keys with Control held.</summary>
    public void Control(string key) => new Actions(_driver).KeyDown(Keys.Control).SendKeys(key).KeyUp(Keys.Control).Perform();

    /// <summary>Rests the mouse on something.</summary>
    public void Hover(string selector) => Act($"rest on {selector}", () => new Actions(_driver).MoveToElement(See(selector)).Perform());

    /// <summary>Chooses the option whose text contains some words: of a cell's list, or of one that opens.</summary>
    public void Choose(string selector, string text) => Act($"choose {text} in {selector}", () =>
    {
        IWebElement box = See(selector);
        if (box.TagName == "select")
        {
            box.FindElements(By.TagName("option")).First(o => o.Text.Contains(text, StringComparison.OrdinalIgnoreCase)).Click();
            return;
        }
        if (box.GetAttribute("aria-expanded") != "true") box.Click();
        // A long list is narrowed down by what is typed.
        if (box.FindElements(By.CssSelector("input")).FirstOrDefault() is { } narrow) narrow.SendKeys(text);
        SeeText(".n-base-select-option", text).Click();
    });

    /// <summary>Does something with a row of a list, by its menu.</summary>
    public void Do(string row, string action)
    {
        Act($"open the menu of {row}", () => SeeText("tr[data-row]", row).FindElement(By.CssSelector("td:last-child button")).Click());
        ClickText(".n-dropdown-option", action);
    }

    /// <summary>Presses on one element, moves by pixels, lets go.</summary>
    public void Drag(IWebElement from, int x, int y) => new Actions(_driver).MoveToElement(from).ClickAndHold().MoveByOffset(x / 2, y / 2).MoveByOffset(x - (x / 2), y - (y / 2)).Release().Perform();

    /// <summary>Runs a script, for what the driver has no move for.</summary>
    public object? Script(string script, params object[] arguments) => ((IJavaScriptExecutor)_driver).ExecuteScript(script, arguments);

    /// <summary>Enters the demo as one of its accounts.</summary>
    public void EnterDemoAs(string account)
    {
        Click($"[data-demo={account}]");
        See(".where");
        // The first page is there, and leads nowhere else any more.
        See("h1");
    }

    public string TextOf(string selector) => See(selector).Text;

    public int Count(string selector) => _driver.FindElements(By.CssSelector(selector)).Count;

    /// <summary>Waits until something is so.</summary>
    public void Until(string what, Func<bool> so)
    {
        var watch = Stopwatch.StartNew();
        while (watch.Elapsed < Patience)
        {
            try
            {
                if (so()) return;
            }
            // A page that is being left while it is looked at answers with an error of the inspector instead, and one that computes does not answer in time.
            catch (Exception e) when (e is StaleElementReferenceException or NoSuchElementException or WebDriverTimeoutException || (e is UnknownErrorException && e.Message.Contains("does not belong to the document", StringComparison.Ordinal)))
            {
            }
            Thread.Sleep(100);
        }
        throw new Xunit.Sdk.XunitException($"Could not {what} at {_driver.Url}.\nOn the page:\n{Page()}\n{Picture()}");
    }

    public string Page() => _driver.FindElement(By.TagName("body")).Text;

    /// <summary>What the browser itself complained of, such as a blocked script; answers that say why not (422) are no complaint.</summary>
    public IReadOnlyList<string> Complaints() => [.. _driver.Manage().Logs.GetLog(LogType.Browser).Select(l => l.Message).Where(m => !m.Contains("status of 422", StringComparison.Ordinal))];

    /// <summary>Leaves it to the next one as if it had just been started, or ends it.</summary>
    public void Dispose()
    {
        try
        {
            if (_isSpecial || _driver.WindowHandles.Count > 1) throw new WebDriverException("It is not like the others.");
            _driver.ResetInputState();
            Script("sessionStorage.clear()");
            _driver.Navigate().GoToUrl("about:blank");
            _driver.ExecuteCdpCommand("Storage.clearDataForOrigin", new Dictionary<string, object?> { ["origin"] = Address, ["storageTypes"] = "all" });
            _driver.ExecuteCdpCommand("Network.clearBrowserCookies", []);
            _ = _driver.Manage().Logs.GetLog(LogType.Browser);
            Idle.Add(_driver);
        }
        catch (WebDriverException)
        {
            _driver.Dispose();
        }
    }

    private static ChromeDriver Started(string? film)
    {
        var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
        options.AddArguments("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage", "--force-prefers-reduced-motion");
        if (film is not null) options.AddArguments("--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream", $"--use-file-for-fake-video-capture={film}");
        options.SetLoggingPreference(LogType.Browser, LogLevel.Severe);
        return new ChromeDriver(ChromeDriverService.CreateDefaultService("/usr/bin"), options, Patience);
    }

    private string Picture()
    {
        string file = System.IO.Path.Combine(System.IO.Path.GetTempPath(), $"lofty-wren-{Guid.NewGuid():N}.png");
        _driver.GetScreenshot().SaveAsFile(file);
        return $"Picture: {file}";
    }

    /// <summary>The first that is shown and has some words, found in one question: asking about each costs more than the page.</summary>
    private IWebElement? Shown(string selector, string text) => (IWebElement?)Script("""
        const [selector, words] = [arguments[0], arguments[1].toLowerCase()]
        const isShown = of => {
          if (!of.checkVisibility({ visibilityProperty: true, opacityProperty: true })) return false
          const { width, height } = of.getBoundingClientRect()
          return width > 0 || height > 0
        }
        return [...document.querySelectorAll(selector)].find(of => isShown(of) && (of.innerText ?? of.textContent).toLowerCase().includes(words)) ?? null
        """, selector, text);

    /// <summary>
    /// The element, once it is where it was a frame before: a menu that is still being put in its place is pressed where it
    /// was, and closes for a press outside of it.
    /// </summary>
    private IWebElement Standing(IWebElement element)
    {
        bool stands = (bool)Script("""
            const of = arguments[0]
            // Only what opens over the page is put in its place while one looks.
            if (!of.closest('.v-binder-follower-content')) return true
            const at = () => { const r = of.getBoundingClientRect(); return [r.x, r.y, r.width, r.height].join() }
            const first = at()
            return new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => done(at() === first))))
            """, element)!;
        return stands ? element : throw new InvalidOperationException("It still moves.");
    }

    private IWebElement Until(string what, Func<IWebElement?> find)
    {
        IWebElement? found = null;
        Until(what, () => (found = find()) is not null);
        return found!;
    }

    private void Act(string what, Action act)
    {
        Moves++;
        Until(what, () =>
        {
            try
            {
                act();
                return true;
            }
            catch (Exception e) when (e is StaleElementReferenceException or ElementClickInterceptedException or ElementNotInteractableException or InvalidOperationException)
            {
                return false;
            }
        });
    }
}
