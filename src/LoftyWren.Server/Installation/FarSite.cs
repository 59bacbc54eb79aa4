using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using System.Reflection;
using System.Security.Cryptography;
using System.Text.Json;
using System.Text.Json.Serialization;
using LoftyWren.Core.Records;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage;

namespace LoftyWren.Server.Installation;

/// <summary>How the link is told over a wire: each call by its name, its arguments as a JSON array, its answer as JSON.</summary>
internal static class LinkWire
{
    public const string KeyHeader = "X-Lofty-Wren-Site-Key";

    public static JsonSerializerOptions Json { get; } = Options();

    /// <summary>Everything that can be asked and told over the link, by name.</summary>
    public static IReadOnlyDictionary<string, MethodInfo> Calls { get; } = typeof(ILink).GetMethods().Concat(typeof(IVirtualSite).GetMethods()).ToDictionary(m => m.Name);

    private static JsonSerializerOptions Options()
    {
        var options = new JsonSerializerOptions();
        RecordJson.Configure(options);
        // A value that is no number goes over the wire too.
        options.NumberHandling = JsonNumberHandling.AllowNamedFloatingPointLiterals;
        return options;
    }

    /// <summary>The key that both ends know: from its file, made if it is not there.</summary>
    public static string KeyIn(string file)
    {
        if (File.Exists(file)) return File.ReadAllText(file).Trim();
        string key = Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(32));
        var only = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows()) only.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        Directory.CreateDirectory(Path.GetDirectoryName(Path.GetFullPath(file))!);
        using (var stream = new FileStream(file, only))
        using (var writer = new StreamWriter(stream)) writer.Write(key);
        return key;
    }
}

/// <summary>A virtual site in a process of its own, reached over HTTP.</summary>
public class FarSite : DispatchProxy
{
    // Building and preparing the demo may take a while; everything else is quick or lost.
    private static readonly HttpClient Http = new(new SocketsHttpHandler { ConnectTimeout = TimeSpan.FromSeconds(2), UseProxy = false }) { Timeout = TimeSpan.FromSeconds(60) };
    private Uri _at = null!;
    private string _key = "";

    /// <summary>The site of a project at an address.</summary>
    public static IVirtualSite At(string address, string project, string key)
    {
        var site = Create<IVirtualSite, FarSite>();
        var proxy = (FarSite)(object)site;
        (proxy._at, proxy._key) = (new Uri($"http://{address}/sites/{project}/"), key);
        return site;
    }

    /// <inheritdoc/>
    protected override object? Invoke(MethodInfo? targetMethod, object?[]? args)
    {
        MethodInfo call = targetMethod!;
        using var request = new HttpRequestMessage(HttpMethod.Post, new Uri(_at, call.Name)) { Content = new ByteArrayContent(Arguments(call, args ?? [])) };
        request.Content.Headers.ContentType = new MediaTypeHeaderValue("application/json");
        request.Headers.Add(LinkWire.KeyHeader, _key);
        HttpResponseMessage response;
        byte[] body;
        try
        {
            response = Http.Send(request);
            using Stream stream = response.Content.ReadAsStream();
            using var all = new MemoryStream();
            stream.CopyTo(all);
            body = all.ToArray();
        }
        catch (Exception e) when (e is HttpRequestException or IOException or TaskCanceledException)
        {
            throw new LinkException($"The virtual site at {_at.Authority} does not answer. Nothing was done there. See whether its process runs; what is designed can be worked on meanwhile.", e);
        }
        using (response)
        {
            return response.StatusCode switch
            {
                HttpStatusCode.OK => call.ReturnType == typeof(void) ? null : JsonSerializer.Deserialize(body, call.ReturnType, LinkWire.Json),
                HttpStatusCode.UnprocessableEntity => throw new InvalidOperationException(JsonSerializer.Deserialize<string>(body)),
                HttpStatusCode.ServiceUnavailable => throw new StorageException(JsonSerializer.Deserialize<string>(body)!),
                HttpStatusCode.Unauthorized => throw new LinkException($"The virtual site at {_at.Authority} has another key. Give this server the key file of that process with --site-key FILE."),
                _ => throw new LinkException($"The virtual site at {_at.Authority} answered {(int)response.StatusCode} to {call.Name}. See its log, and whether both are of one version."),
            };
        }
    }

    private static byte[] Arguments(MethodInfo call, object?[] args)
    {
        ParameterInfo[] parameters = call.GetParameters();
        using var stream = new MemoryStream();
        using (var writer = new Utf8JsonWriter(stream))
        {
            writer.WriteStartArray();
            for (int i = 0; i < parameters.Length; i++) JsonSerializer.Serialize(writer, args[i], parameters[i].ParameterType, LinkWire.Json);
            writer.WriteEndArray();
        }
        return stream.ToArray();
    }
}

/// <summary>A process of its own for virtual sites, begun by this one where nobody else has begun it.</summary>
public sealed class SiteProcess : IAsyncDisposable
{
    private readonly Process? _process;

    private SiteProcess(Process? process) => _process = process;

    /// <summary>Sees to it that somebody answers at an address: begins a process on this machine where nobody does.</summary>
    /// <exception cref="InvalidOperationException">Nobody answers, and no process could be begun there; the message says what to do.</exception>
    public static async Task<SiteProcess> Ensure(string address, string folder, string keyFile)
    {
        if (await Answers(address)) return new SiteProcess(null);
        string host = address[..address.LastIndexOf(':')];
        if (host is not ("127.0.0.1" or "localhost")) throw new InvalidOperationException($"Nobody answers at {address}. Start the virtual site there with ./run --site-only {address}, and give this server its key file with --site-key FILE.");
        var start = new ProcessStartInfo(Environment.ProcessPath!) { UseShellExecute = false, RedirectStandardInput = true };
        foreach (string argument in (string[])[.. Path.GetFileNameWithoutExtension(Environment.ProcessPath!) == "dotnet" ? [typeof(SiteProcess).Assembly.Location] : Array.Empty<string>(), "--site-only", address, "--data", folder, "--site-key", keyFile, "--until-input-ends"]) start.ArgumentList.Add(argument);
        Process process = Process.Start(start) ?? throw new InvalidOperationException("The process of the virtual site could not be started.");
        for (int i = 0; i < 150; i++)
        {
            if (await Answers(address)) return new SiteProcess(process);
            if (process.HasExited) throw new InvalidOperationException($"The process of the virtual site stopped at once, with code {process.ExitCode}; above it says why.");
            await Task.Delay(100);
        }
        process.Kill();
        throw new InvalidOperationException($"The process of the virtual site does not answer at {address}.");
    }

    private static async Task<bool> Answers(string address)
    {
        using var http = new HttpClient(new SocketsHttpHandler { UseProxy = false }) { Timeout = TimeSpan.FromSeconds(2) };
        try
        {
            return (await http.GetAsync(new Uri($"http://{address}/"))).Headers.Contains(LinkWire.KeyHeader);
        }
        catch (Exception e) when (e is HttpRequestException or TaskCanceledException)
        {
            return false;
        }
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        if (_process is null || _process.HasExited) return;
        // It keeps all it has before it goes; so it does when this process dies, and its input ends by itself.
        _process.StandardInput.Close();
        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(20));
        try
        {
            await _process.WaitForExitAsync(patience.Token);
        }
        catch (OperationCanceledException)
        {
            _process.Kill();
        }
        _process.Dispose();
    }
}
