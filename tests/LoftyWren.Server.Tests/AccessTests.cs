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

    /// <summary>Every endpoint that changes something, asked as other sites can make a signed-in browser ask: by a form, by a script, from a sandbox, from another port of this machine.</summary>
    [Fact]
    public async Task Nothing_that_changes_anything_takes_a_request_from_elsewhere()
    {
        Client administrator = await server.As("administrator"), bare = new(server.Address, ownHeader: false);
        bare.Cookies.Add(administrator.Cookies.GetAllCookies());
        long revision = server.Get<Projects.Workspace>().Project.Revision;
        string trail = (await administrator.Read("/api/trail")).ToJsonString();
        (string? Origin, bool OwnHeader, string Type, string Body)[] shapes =
        [
            (null, false, "application/json", "{}"), (null, false, "text/plain", "{\"edits\":[]}"), (null, false, "application/x-www-form-urlencoded", "a=1"), (null, false, "multipart/form-data; boundary=x", "--x--"),
            ("http://evil.example", true, "application/json", "{}"), ("http://evil.example", false, "text/plain", "{}"), ("null", true, "application/json", "{}"), ("http://localhost:1", true, "application/json", "{}"), ("http://localhost.evil.example", true, "application/json", "{}"), ("file://", true, "application/json", "{}"),
        ];
        int asked = 0;
        foreach (var (method, path, _) in Endpoints().Where(e => e.Method != "GET"))
        {
            foreach (var (origin, own, type, body) in shapes)
            {
                var request = new HttpRequestMessage(new HttpMethod(method), path) { Content = new StringContent(body) };
                request.Content.Headers.Remove("Content-Type");
                request.Content.Headers.TryAddWithoutValidation("Content-Type", type);
                if (origin is not null) request.Headers.TryAddWithoutValidation("Origin", origin);
                if (own) request.Headers.Add(LoftyWrenServer.OwnRequestHeader, "1");
                HttpResponseMessage answer = await bare.Http.SendAsync(request);
                Assert.True(answer.StatusCode == HttpStatusCode.Forbidden, $"{method} {path} from {origin ?? "a form"}: {(int)answer.StatusCode}");
                asked++;
            }
        }
        Assert.True(asked > 500, $"Only {asked} requests were made.");
        Assert.Equal(revision, server.Get<Projects.Workspace>().Project.Revision);
        Assert.Equal(trail, (await administrator.Read("/api/trail")).ToJsonString());
    }

    /// <summary>Requests that no browser makes, byte for byte: each is answered or cut off, none with an error of ours, and none reaches what it may not.</summary>
    [Theory]
    [InlineData("GET /api/project HTTP/1.1\r\nHost: HOST\r\nX-Forwarded-For: 127.0.0.1\r\nX-Original-URL: /api/me\r\nX-HTTP-Method-Override: POST\r\nConnection: close\r\n\r\n", "401")]
    [InlineData("GET /api/project HTTP/1.1\r\nHost: evil.example\r\nX-Forwarded-Host: HOST\r\nConnection: close\r\n\r\n", "400")]
    [InlineData("GET /api/project HTTP/1.1\r\nConnection: close\r\n\r\n", "400")]
    [InlineData("GET /api/project HTTP/1.1\r\nHost: HOST\r\nHost: evil.example\r\nConnection: close\r\n\r\n", "400")]
    [InlineData("GET http://evil.example/api/project HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n", "4")]
    [InlineData("GET /api/project HTTP/1.1\r\nHost: HOST\r\nCookie: lofty-wren=garbage; .AspNetCore.Cookies=x; a=\"\r\nConnection: close\r\n\r\n", "401")]
    [InlineData("POST /api/sign-in HTTP/1.1\r\nHost: HOST\r\nX-Lofty-Wren: 1\r\nContent-Type: application/json\r\nContent-Length: 2\r\nTransfer-Encoding: chunked\r\nConnection: close\r\n\r\n2\r\n{}\r\n0\r\n\r\n", "4")]
    [InlineData("POST /api/sign-in HTTP/1.1\r\nHost: HOST\r\nX-Lofty-Wren: 1\r\nContent-Type: application/json\r\nContent-Length: -1\r\nConnection: close\r\n\r\n{}", "400")]
    [InlineData("POST /api/sign-in HTTP/1.1\r\nHost: HOST\r\nX-Lofty-Wren: 1\r\nContent-Type: application/json\r\nContent-Length: 99999999999\r\nConnection: close\r\n\r\n{}", "4")]
    [InlineData("GET /api/\u0001 HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n", "4")]
    [InlineData("GET /api/project HTTP/9.9\r\nHost: HOST\r\n\r\n", "505")]
    [InlineData("TRACE /api/me HTTP/1.1\r\nHost: HOST\r\nConnection: close\r\n\r\n", "4")]
    [InlineData("GET /api/me HTTP/1.1\r\nHost: HOST\r\nX-Long: LONG\r\nConnection: close\r\n\r\n", "431")]
    [InlineData("GET /api/me HTTP/1.1\r\nHost: HOST\r\nX Bad: 1\r\nConnection: close\r\n\r\n", "400")]
    public async Task Raw_requests_are_answered_and_reach_nothing(string request, string status)
    {
        using var socket = new System.Net.Sockets.TcpClient("localhost", new Uri(server.Address).Port) { ReceiveTimeout = 10_000 };
        await using System.Net.Sockets.NetworkStream stream = socket.GetStream();
        await stream.WriteAsync(System.Text.Encoding.Latin1.GetBytes(request.Replace("HOST", new Uri(server.Address).Authority).Replace("LONG", new string('a', 60_000)).Replace("X-Lofty-Wren", LoftyWrenServer.OwnRequestHeader)));
        using var reader = new StreamReader(stream);
        string answer = await reader.ReadLineAsync(new CancellationTokenSource(10_000).Token) ?? "cut off";
        Assert.StartsWith($"HTTP/1.1 {status}", answer);
        (await server.Anybody().Get("/api/me")).Dispose();
    }

    /// <summary>Strangers cannot fill the log: what is malformed is answered, and not written down.</summary>
    [Fact]
    public async Task Malformed_requests_leave_no_line_in_the_log()
    {
        Client engineer = await server.As("engineer");
        long before = server.LogSize();
        foreach (Client client in (Client[])[server.Anybody(), engineer])
        {
            foreach (string path in (string[])["/api/sign-in", "/api/changes", "/api/copies/preview"])
            {
                foreach (string body in (string[])["", "{", "[]", "null", "{\"name\":7}", "\u0000", "{\"edits\":[{\"put\":{\"type\":\"x\"}}]}"])
                {
                    HttpResponseMessage answer = await client.Http.PostAsync(path, new StringContent(body, System.Text.Encoding.UTF8, "application/json"));
                    Assert.True((int)answer.StatusCode is >= 400 and < 500, $"{path} ← {body}: {(int)answer.StatusCode}");
                }
            }
        }
        Assert.Equal(before, server.LogSize());
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
