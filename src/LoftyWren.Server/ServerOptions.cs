using System.Globalization;

namespace LoftyWren.Server;

/// <summary>What the command line asks for.</summary>
public sealed record ServerOptions(int Port, string DataFolder, bool Empty, string DemoFolder, string ClientFolder, bool AsItIs = false, bool Restore = false, string? RestoreFrom = null, string? Site = null, string? SiteOnly = null, string? SiteKey = null, bool UntilInputEnds = false)
{
    /// <summary>Reads <c>--port N --data DIR --empty --demo DIR --client DIR --restore [FILE] --as-it-is --site HOST:PORT --site-only HOST:PORT --site-key FILE</c>.</summary>
    /// <exception cref="ArgumentException">Something else was written; the message says what is known.</exception>
    public static ServerOptions Parse(IReadOnlyList<string> arguments)
    {
        var options = new ServerOptions(5180, ".data", false, "demo", "client/dist");
        for (int i = 0; i < arguments.Count; i++)
        {
            string Next() => ++i < arguments.Count ? arguments[i] : throw new ArgumentException($"{arguments[i - 1]} needs a value after it.");
            options = arguments[i] switch
            {
                "--port" => options with { Port = int.TryParse(Next(), NumberStyles.None, CultureInfo.InvariantCulture, out int port) && port is > 0 and < 65536 ? port : throw new ArgumentException($"‘{arguments[i]}’ is not a port; use 1 to 65535.") },
                "--data" => options with { DataFolder = Next() },
                "--demo" => options with { DemoFolder = Next() },
                "--client" => options with { ClientFolder = Next() },
                "--empty" => options with { Empty = true },
                "--site" => options with { Site = Address(Next()) },
                "--site-only" => options with { SiteOnly = Address(Next()) },
                "--until-input-ends" => options with { UntilInputEnds = true },
                "--site-key" => options with { SiteKey = Next() },
                "--as-it-is" => options with { AsItIs = true },
                "--restore" => options with { Restore = true, RestoreFrom = i + 1 < arguments.Count && !arguments[i + 1].StartsWith("--", StringComparison.Ordinal) ? Next() : null },
                _ => throw new ArgumentException($"‘{arguments[i]}’ is not known. Use --port N, --data DIR, --empty, --restore [FILE], --as-it-is, --site HOST:PORT, --site-only HOST:PORT, --site-key FILE."),
            };
        }
        return options;

        static string Address(string text) => text.LastIndexOf(':') is > 0 and var at && int.TryParse(text[(at + 1)..], NumberStyles.None, CultureInfo.InvariantCulture, out int port) && port is > 0 and < 65536 && Uri.CheckHostName(text[..at]) != UriHostNameType.Unknown
            ? text : throw new ArgumentException($"‘{text}’ is not an address; write HOST:PORT, as in 127.0.0.1:5190.");
    }

    /// <summary>The file of the key that this server and its virtual site share, where that is a process of its own.</summary>
    public string SiteKeyFile => SiteKey ?? Path.Combine(DataFolder, "site.key");
}
