using System.Net;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;

namespace LoftyWren.Server.Tests;

/// <summary>What must hold for long and under many: a little of it here, forty times as much by <c>./test soak</c>.</summary>
[Trait("Takes", "long")]
public class EnduranceTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly int Times = Environment.GetEnvironmentVariable("LOFTY_WREN_SOAK") is null ? 1 : 40;

    [Fact]
    public async Task Edits_of_many_at_once_are_all_there_afterwards()
    {
        Client engineer = await server.As("engineer");
        RecordId site = server.Get<Workspace>().Project.Site!.Id;
        int each = 25 * Times;
        await Task.WhenAll(Enumerable.Range(0, 6).Select(w => Task.Run(async () =>
        {
            for (int i = 0; i < each; i++)
            {
                var (status, body) = await engineer.Change(Edit.Of(new Place { Id = new($"many-{w}-{i}"), Name = $"Shed {w} {i}", Kind = PlaceKind.Building, In = site }));
                Assert.True(status == 200, body.ToJsonString());
            }
        })));
        Assert.Equal(6 * each, server.Get<Workspace>().Project.All<Place>().Count(p => p.Id.Value.StartsWith("many-", StringComparison.Ordinal)));
        Assert.Equal(server.Get<Workspace>().Project.Revision, server.Get<Workspace>().Store.Load().Revision);
    }

    // Ten minutes at 3600× are 25 days of site time; a day of it here.
    [Fact]
    public void The_site_at_full_speed_needs_no_more_memory_as_time_goes_on()
    {
        SiteServer host = server.Get<SiteServer>();
        long start = host.Link.Pulse().Now;
        host.RunAheadTo(start + 6 * 3_600_000L);
        long before = GC.GetTotalMemory(forceFullCollection: true);
        host.RunAheadTo(start + (24 + (Times > 1 ? 25 * 24 : 0)) * 3_600_000L);
        Assert.InRange(GC.GetTotalMemory(forceFullCollection: true) - before, long.MinValue, 24L * 1024 * 1024);
    }

    [Fact]
    public async Task No_path_leads_out_of_what_is_served()
    {
        Client client = await server.As("administrator");
        string[] ups = ["..", "%2e%2e", "%252e%252e", "..%2f", "..%5c", "....//", ".%2e", "%c0%ae%c0%ae", "..;", "\\..", "%00"];
        string[] targets = ["etc/passwd", "project.db", "keys/seal.pfx", "accounts.db", "lock"];
        string[] roots = ["/", "/assets/", "/api/", "/p/", "/p/main/", "/api/project/", "/openapi/", "/api/backups/"];
        int asked = 0;
        foreach (string root in roots)
        {
            foreach (string up in ups)
            {
                foreach (string target in targets)
                {
                    using var request = new HttpRequestMessage(HttpMethod.Get, new Uri($"{server.Address}{root}{up}/{up}/{target}", new UriCreationOptions { DangerousDisablePathAndQueryCanonicalization = true }));
                    HttpResponseMessage answer = await client.Http.SendAsync(request);
                    byte[] body = await answer.Content.ReadAsByteArrayAsync();
                    Assert.True((int)answer.StatusCode < 500, $"{request.RequestUri}: {(int)answer.StatusCode}");
                    Assert.False(body.AsSpan().StartsWith("SQLite format"u8) || body.AsSpan().IndexOf("root:"u8) >= 0, $"{request.RequestUri} gave a file away.");
                    if (answer.StatusCode == HttpStatusCode.OK) Assert.StartsWith("text/html", answer.Content.Headers.ContentType?.ToString());
                    asked++;
                }
            }
        }
        Assert.Equal(440, asked);
    }

    [Fact]
    public async Task A_stopped_log_is_emptied_by_a_technician_and_the_trail_says_so()
    {
        Client technician = await server.As("technician"), person = await server.As("operator");
        string trend = server.Get<Workspace>().Project.All<Core.Trends.TrendLog>().First(t => server.Get<SiteHost>().Read(t.PointId) is not null).Id.Value;
        server.Get<SiteHost>().SetClock("technician", null, null, 600);
        Assert.True((await person.Read($"/api/trends/{trend}/log"))["taken"]!.GetValue<long>() > 0);
        Assert.Equal(HttpStatusCode.Forbidden, (await person.Post($"/api/trends/{trend}/empty")).StatusCode);
        (await technician.Post($"/api/trends/{trend}/empty")).EnsureSuccessStatusCode();
        Assert.Equal(0, (await person.Read($"/api/trends/{trend}/log"))["taken"]!.GetValue<long>());
        Assert.Contains((await person.Read("/api/trail")).AsArray(), t => t!["what"]!.GetValue<string>().StartsWith("Emptied the trend log", StringComparison.Ordinal));
    }
}
