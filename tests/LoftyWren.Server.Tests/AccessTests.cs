using System.Net;
using LoftyWren.Server.Accounts;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Routing;

namespace LoftyWren.Server.Tests;

/// <summary>Who may call what, and what keeps other sites out.</summary>
public class AccessTests(DemoServer server) : IClassFixture<DemoServer>
{
    private IEnumerable<(string Method, string Path, Role? Least)> Endpoints() =>
        server.Get<EndpointDataSource>().Endpoints.OfType<RouteEndpoint>().Select(e =>
        {
            LeastRole? least = e.Metadata.GetMetadata<LeastRole>();
            Assert.True(least is not null, $"{e.RoutePattern.RawText} does not say who may call it.");
            string method = e.Metadata.GetMetadata<IHttpMethodMetadata>()?.HttpMethods[0] ?? "GET";
            string path = "/" + e.RoutePattern.RawText!.TrimStart('/').Replace("{revision:long}", "999999").Replace("{id:long}", "999999").Replace("{documentName}", "v1").Replace("{*path:nonfile}", "nowhere");
            return (method, path.Replace("{id}", "no-such").Replace("{pointId}", "no-such"), least.Role);
        });

    [Theory]
    [InlineData(null)]
    [InlineData("viewer")]
    [InlineData("operator")]
    [InlineData("technician")]
    [InlineData("engineer")]
    [InlineData("administrator")]
    public async Task Every_endpoint_opens_to_its_least_role_and_no_lower(string? account)
    {
        Client client = account is null ? server.Anybody() : await server.As(account);
        Role? role = account is null ? null : Enum.Parse<Role>(account, ignoreCase: true);
        int walked = 0;
        foreach (var (method, path, least) in Endpoints().Where(e => e.Path is not ("/api/sign-out" or "/api/undo" or "/api/redo" or "/api/me/password" or "/api/site/clock")))
        {
            HttpResponseMessage response = method == "GET" ? await client.Get(path) : await client.Post(path);
            bool shut = response.StatusCode is HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden;
            bool mayCall = least is null || (role is { } has && has >= least);
            Assert.True(shut != mayCall, $"{account ?? "nobody"} {method} {path}: {(int)response.StatusCode}, least role {least?.ToString() ?? "none"}");
            if (shut) Assert.Equal(account is null ? HttpStatusCode.Unauthorized : HttpStatusCode.Forbidden, response.StatusCode);
            walked++;
        }
        Assert.True(walked > 45, $"Only {walked} endpoints were walked.");
    }

    [Fact]
    public async Task A_request_without_our_header_or_from_another_origin_changes_nothing()
    {
        Client engineer = await server.As("engineer");
        var foreign = new HttpRequestMessage(HttpMethod.Post, "/api/undo");
        foreign.Headers.Add("Origin", "http://evil.example");
        Assert.Equal(HttpStatusCode.Forbidden, (await engineer.Http.SendAsync(foreign)).StatusCode);
        engineer.Http.DefaultRequestHeaders.Remove(LoftyWrenServer.OwnRequestHeader);
        HttpResponseMessage plain = await engineer.Post("/api/undo");
        Assert.Equal(HttpStatusCode.Forbidden, plain.StatusCode);
        Assert.Contains("does not come from Lofty Wren's own pages", await Client.Detail(plain));
        var live = new HttpRequestMessage(HttpMethod.Post, "/live/negotiate?negotiateVersion=1");
        live.Headers.Add("Origin", "http://evil.example");
        Assert.Equal(HttpStatusCode.Forbidden, (await engineer.Http.SendAsync(live)).StatusCode);
    }

    [Fact]
    public async Task A_host_that_is_not_this_machine_is_refused()
    {
        var rebound = new HttpRequestMessage(HttpMethod.Get, "/api/me");
        rebound.Headers.Host = "evil.example";
        Assert.Equal(HttpStatusCode.BadRequest, (await server.Anybody().Http.SendAsync(rebound)).StatusCode);
    }

    [Fact]
    public async Task Every_answer_carries_the_policy_that_keeps_foreign_scripts_out()
    {
        HttpResponseMessage response = await server.Anybody().Get("/api/me");
        string policy = response.Headers.GetValues("Content-Security-Policy").Single();
        Assert.Contains("script-src 'self';", policy);
        Assert.Contains("frame-ancestors 'none'", policy);
        Assert.DoesNotContain("unsafe-eval", policy);
        Assert.Equal("nosniff", response.Headers.GetValues("X-Content-Type-Options").Single());
    }

    [Fact]
    public async Task The_cookie_is_hidden_from_scripts_and_other_sites()
    {
        HttpResponseMessage response = await server.Anybody().Post("/api/sign-in", new { name = "viewer", password = "saltmarsh" });
        string cookie = response.Headers.GetValues("Set-Cookie").Single();
        Assert.Contains("httponly", cookie);
        Assert.Contains("samesite=strict", cookie);
    }

    [Fact]
    public void The_server_listens_on_this_machine_only() => Assert.All(server.App.Urls, url => Assert.StartsWith("http://127.0.0.1:", url));
}
