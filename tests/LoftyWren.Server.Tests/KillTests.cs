using System.Diagnostics;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Storage.Projects;

namespace LoftyWren.Server.Tests;

/// <summary>The server killed in the middle of edits, again and again: no acknowledged edit is lost and the database is whole.</summary>
[Trait("Takes", "long")]
public class KillTests
{
    [Fact]
    public async Task A_kill_at_any_moment_loses_no_acknowledged_edit()
    {
        string data = Directory.CreateTempSubdirectory("lofty-wren-kill-").FullName;
        var acknowledged = new List<string>();
        var random = new Random(17);
        Client? client = null;
        try
        {
            for (int round = 0; round < (Environment.GetEnvironmentVariable("LOFTY_WREN_SOAK") is null ? 3 : 72); round++)
            {
                int port = DemoServer.FreePort();
                using Process server = Start(data, port, out Task<string> code);
                var fresh = new Client($"http://localhost:{port}");
                if (round == 0)
                {
                    (await fresh.Post("/api/first-account", new { code = await code, name = "keeper", password = "quay-side-9" })).EnsureSuccessStatusCode();
                    Assert.Equal(200, (await fresh.Change(Edit.Of(new Place { Id = new("site"), Name = "Site", Kind = PlaceKind.Site, TimeZone = "Europe/London" }))).Status);
                }
                else
                {
                    await code;
                    (await fresh.Post("/api/sign-in", new { name = "keeper", password = "quay-side-9" })).EnsureSuccessStatusCode();
                }
                client = fresh;
                // Several edits are under way at once when the process is killed without any warning.
                using var killed = new CancellationTokenSource();
                int prefix = round * 100_000;
                Task[] writers = [.. Enumerable.Range(0, 3).Select(w => Task.Run(async () =>
                {
                    for (int i = 0; !killed.IsCancellationRequested; i++)
                    {
                        string id = $"b-{prefix + (w * 10_000) + i}";
                        try
                        {
                            var (status, _) = await client.Change(Edit.Of(new Place { Id = new(id), Name = id, Kind = PlaceKind.Building, In = new("site") }));
                            if (status != 200) continue;
                            lock (acknowledged) acknowledged.Add(id);
                        }
                        catch (HttpRequestException)
                        {
                            return;
                        }
                    }
                }))];
                await Task.Delay(300 + random.Next(500));
                server.Kill(entireProcessTree: true);
                await server.WaitForExitAsync();
                await killed.CancelAsync();
                await Task.WhenAll(writers);

                using var store = new ProjectStore(Path.Combine(data, "project.db"));
                Assert.Equal("ok", store.Database.CheckIntegrity());
                Project project = store.Load();
                Assert.All(acknowledged, id => Assert.NotNull(project.Find(new RecordId(id))));
                // Journal and records were written together: as many entries as the revision says, the last one's record there.
                Assert.Equal(project.Revision, store.Page(long.MaxValue, 1)[0].Revision);
                Assert.Equal(project.Revision, project.Count);
            }
            Assert.True(acknowledged.Count > 10, $"Only {acknowledged.Count} edits were acknowledged; the test proved little.");
        }
        finally
        {
            Microsoft.Data.Sqlite.SqliteConnection.ClearAllPools();
            Directory.Delete(data, recursive: true);
        }
    }

    private static Process Start(string data, int port, out Task<string> code)
    {
        var start = new ProcessStartInfo("dotnet") { RedirectStandardOutput = true, RedirectStandardError = true };
        foreach (string argument in new[] { typeof(LoftyWrenServer).Assembly.Location, "--data", data, "--port", $"{port}", "--empty" }) start.ArgumentList.Add(argument);
        Process process = Process.Start(start)!;
        var said = new TaskCompletionSource<string>();
        bool hasAccount = File.Exists(Path.Combine(data, "accounts.db"));
        process.OutputDataReceived += (_, e) =>
        {
            if (e.Data?.Contains("with this code: ") == true) said.TrySetResult(e.Data.Split(": ")[^1].Trim());
            else if (hasAccount && e.Data?.Contains("is ready") == true) said.TrySetResult("");
        };
        process.ErrorDataReceived += (_, _) => { };
        process.BeginOutputReadLine();
        process.BeginErrorReadLine();
        code = said.Task.WaitAsync(TimeSpan.FromSeconds(60));
        return process;
    }
}
