using System.Drawing;
using OpenQA.Selenium;
using OpenQA.Selenium.Chrome;

// Takes pictures of a running Lofty Wren with the demo: pictures ADDRESS LIST FOLDER [NAME]
// Each line of the list: name | account | width x height [dark] [large] | path | what to do, one step after the other:
// a CSS selector is clicked; “selector := text” is typed into
if (args.Length < 3)
{
    Console.Error.WriteLine("pictures ADDRESS LIST FOLDER [NAME]");
    return 2;
}
string address = args[0].TrimEnd('/'), folder = args[2];
Directory.CreateDirectory(folder);
var lines = File.ReadAllLines(args[1]).Where(l => l.Contains('|') && !l.StartsWith('#')).Select(l => l.Split('|', StringSplitOptions.TrimEntries)).Where(l => args.Length < 4 || args[3].Split(',').Contains(l[0])).ToList();
foreach (var byAccount in lines.GroupBy(l => l[1]))
{
    var options = new ChromeOptions { BinaryLocation = "/usr/bin/chromium" };
    options.AddArguments("--headless=new", "--no-sandbox", "--disable-gpu", "--hide-scrollbars", "--force-device-scale-factor=1");
    using var driver = new ChromeDriver(ChromeDriverService.CreateDefaultService("/usr/bin"), options);
    driver.Manage().Timeouts().ImplicitWait = TimeSpan.FromSeconds(10);
    driver.Navigate().GoToUrl(address);
    if (byAccount.Key != "-") driver.FindElement(By.CssSelector($"[data-demo={byAccount.Key}]")).Click();
    Thread.Sleep(1500);
    foreach (string[] line in byAccount)
    {
        string[] look = line[2].Split(' ');
        bool dark = look.Contains("dark"), large = look.Contains("large");
        int[] size = [.. look[0].Split('x').Select(int.Parse)];
        ((IJavaScriptExecutor)driver).ExecuteScript($"localStorage.setItem('theme', '{(dark ? "dark" : "light")}'); localStorage.setItem('letters', '{(large ? 130 : 100)}'); localStorage.setItem('dense', '{(large ? "false" : "true")}')");
        // Headless windows have no frame, but a fixed minimum width; the metrics override has none.
        driver.ExecuteCdpCommand("Emulation.setDeviceMetricsOverride", new Dictionary<string, object?> { ["width"] = size[0], ["height"] = size[1], ["deviceScaleFactor"] = 1, ["mobile"] = size[0] < 700 });
        driver.Manage().Window.Size = new Size(Math.Max(500, size[0]), size[1]);
        driver.Navigate().GoToUrl(address + line[3]);
        Thread.Sleep(2200);
        foreach (string selector in line.Skip(4).Where(s => s.Length > 0))
        {
            try
            {
                string[] typing = selector.Split(" := ");
                IWebElement element = driver.FindElement(By.CssSelector(typing[0]));
                if (typing.Length == 2) element.SendKeys(File.Exists(typing[1]) ? Path.GetFullPath(typing[1]) : typing[1]);
                else ((IJavaScriptExecutor)driver).ExecuteScript("arguments[0].focus?.(); arguments[0].dispatchEvent(new MouseEvent('click', {bubbles: true}))", element);
                Thread.Sleep(1200);
            }
            catch (NoSuchElementException)
            {
                Console.Error.WriteLine($"{line[0]}: nothing matches {selector}");
            }
        }
        driver.GetScreenshot().SaveAsFile(Path.Combine(folder, line[0] + ".png"));
        foreach (var entry in driver.Manage().Logs.GetLog(LogType.Browser).Where(e => e.Level >= OpenQA.Selenium.LogLevel.Warning)) Console.Error.WriteLine($"{line[0]}: {entry.Message[..Math.Min(200, entry.Message.Length)]}");
        Console.WriteLine(line[0]);
    }
}
return 0;
