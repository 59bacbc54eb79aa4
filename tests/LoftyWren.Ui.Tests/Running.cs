using System.Diagnostics;
using System.Text.RegularExpressions;
using LoftyWren.Tests;

// A walk waits as often as it works.
[assembly: CollectionBehavior(MaxParallelThreads = 3)]

namespace LoftyWren.Ui.Tests;

/// <summary>A Lofty Wren of its own: a server process on a free port with a data folder that is thrown away.</summary>
public sealed partial class Running : IDisposable
{
    private readonly Process _process;
    private readonly string _data = Directory.CreateTempSubdirectory("lofty-wren-ui-").FullName;
    private readonly List<string> _lines = [];

    // The demo is loaded once; each server begins with a copy of what that kept.
    private static readonly Lazy<string> Loaded = new(() =>
    {
        var first = new Running(empty: false, from: null);
        first.Stop();
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(first._data, recursive: true);
        return first._data;
    });

    public Running(bool empty) : this(empty, empty ? null : Loaded.Value)
    {
    }

    private Running(bool empty, string? from)
    {
        if (from is not null) TestGround.Copy(from, _data);
        string root = Root();
        int port = TestGround.FreePort();
        Address = $"http://localhost:{port}";
        string server = Path.Combine(root, "src/LoftyWren.Server/bin", Configuration(), "net10.0/LoftyWren.Server.dll");
        if (!File.Exists(Path.Combine(root, "client/dist/index.html"))) throw new InvalidOperationException("The client is not built; ./test builds it first.");
        var start = new ProcessStartInfo("dotnet") { WorkingDirectory = root, RedirectStandardOutput = true, RedirectStandardError = true };
        foreach (string argument in new[] { server, "--port", $"{port}", "--data", _data }) start.ArgumentList.Add(argument);
        if (empty) start.ArgumentList.Add("--empty");
        _process = Process.Start(start)!;
        DataReceivedEventHandler take = (_, e) =>
        {
            lock (_lines) _lines.Add(e.Data ?? "");
        };
        _process.OutputDataReceived += take;
        _process.ErrorDataReceived += take;
        _process.BeginOutputReadLine();
        _process.BeginErrorReadLine();
        Wait(text => text.Contains("is ready at"), TimeSpan.FromMinutes(5));
        if (empty) Code = CodeLine().Match(Wait(text => CodeLine().IsMatch(text), TimeSpan.FromMinutes(1))).Groups[1].Value;
    }

    public string Address { get; }

    /// <summary>The one-time code of an empty installation.</summary>
    public string Code { get; } = "";

    public static string Root()
    {
        string? folder = AppContext.BaseDirectory;
        while (folder is not null && !File.Exists(Path.Combine(folder, "LoftyWren.slnx"))) folder = Path.GetDirectoryName(folder);
        return folder ?? throw new InvalidOperationException("The repository's root is not above the tests.");
    }

    public void Dispose()
    {
        Stop();
        Directory.Delete(_data, recursive: true);
    }

    private void Stop()
    {
        _process.Kill(entireProcessTree: true);
        _process.WaitForExit();
        _process.Dispose();
    }

    private static string Configuration() => AppContext.BaseDirectory.Contains("/Release/", StringComparison.Ordinal) ? "Release" : "Debug";

    private string Wait(Func<string, bool> seen, TimeSpan most)
    {
        var watch = Stopwatch.StartNew();
        while (true)
        {
            string text;
            lock (_lines) text = string.Join('\n', _lines);
            if (seen(text)) return text;
            if (watch.Elapsed > most || _process.HasExited) throw new InvalidOperationException($"The server did not come up:\n{text}");
            Thread.Sleep(100);
        }
    }

    [GeneratedRegex("with this code: ([A-Z0-9]+)")]
    private static partial Regex CodeLine();
}
