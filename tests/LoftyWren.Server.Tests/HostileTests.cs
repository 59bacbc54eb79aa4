using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Tests;

/// <summary>
/// Random bytes, texts and records at every endpoint of the described interface: each is answered in words, none with a
/// 500, none takes longer than it should, and what was refused has changed nothing. <c>./test soak</c> goes on for longer.
/// </summary>
[Trait("Takes", "long")]
public class HostileTests(DemoServer server) : IClassFixture<DemoServer>
{
    private static readonly int Rounds = int.TryParse(Environment.GetEnvironmentVariable("LOFTY_WREN_SOAK"), out int rounds) ? rounds * 40 : 1;

    private static readonly string[] Texts = ["", " ", "x", "-1", "0", "7", "1e308", "99999999999999999999", "NaN", "9999-12-31", "0001-01-01", "2026-02-30", "\u202e", "\u0000", "\ud83d\ude00", "../../etc/passwd", "<script>", "'; DROP TABLE records; --", "%00", "kiln-temp", "kiln-seq", "hours", "mon 6-22 open", "point and", new('a', 5000)];

    private static readonly string[] Bodies =
    [
        "", "null", "7", "true", "\"x\"", "[]", "{}", "[{}]", "[null]", "{\"edits\":null}", "{\"edits\":[null]}", "{\"edits\":[{}]}", "{\"edits\":[{\"put\":{\"id\":\"x\",\"name\":\"x\"}}]}", "{\"edits\":[{\"put\":{\"type\":\"nothing\"}}]}",
        "{\"rows\":[]}", "{\"rows\":[{\"a\":{}}]}", "{\"a\":", "\u0000\u0001\u0002", "PK\u0003\u0004 not a zip", "ver:\"3.0\"\na\n[[[[", "ver:\"3.0\"\n", "dis:\"x", "{\"x\":1,\"x\":1}", new string('[', 100_000), "{\"a\":" + new string('[', 5000), string.Concat(Enumerable.Repeat("{\"a\":", 5000)), string.Concat(Enumerable.Repeat("\"x\",", 20_000)),
    ];

    [Fact]
    public async Task Nothing_that_anybody_sends_is_answered_with_an_error_of_ours()
    {
        Client client = await server.As("administrator");
        JsonNode description = await client.Read("/openapi/v1.json");
        var failed = new List<string>();
        long revision = server.Get<Workspace>().Project.Revision;
        int asked = 0;
        for (int round = 0; round < Rounds; round++)
        {
            var random = new Random(11 + round);
            foreach (var (path, methods) in description["paths"]!.AsObject())
            {
                if (path is "/api/sign-out" or "/api/sign-in" or "/api/first-account") continue;
                foreach (var (method, operation) in methods!.AsObject())
                {
                    foreach (var (query, body, isBinary) in Cases(description, operation!, random))
                    {
                        string address = path;
                        foreach (JsonNode? parameter in operation!["parameters"]?.AsArray() ?? [])
                        {
                            if (parameter!["in"]!.GetValue<string>() != "path") continue;
                            string text = Texts[random.Next(Texts.Length)];
                            address = address.Replace($"{{{parameter["name"]}}}", Uri.EscapeDataString(text.Length is 0 or > 200 ? "kiln-temp" : text.Replace("/", "").Replace(".", "x")), StringComparison.Ordinal);
                        }
                        using var request = new HttpRequestMessage(new HttpMethod(method), address + query);
                        if (body is not null)
                        {
                            request.Content = new ByteArrayContent(Encoding.UTF8.GetBytes(body));
                            request.Content.Headers.ContentType = new MediaTypeHeaderValue(isBinary ? "application/octet-stream" : "application/json");
                        }
                        asked++;
                        using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(20));
                        HttpResponseMessage answer = await client.Http.SendAsync(request, HttpCompletionOption.ResponseHeadersRead, patience.Token);
                        if ((int)answer.StatusCode >= 500) failed.Add($"{(int)answer.StatusCode} {method} {address + query} ← {(body is { Length: > 160 } ? body[..160] + "…" : body)}");
                    }
                }
            }
        }
        Assert.True(failed.Count == 0, $"{failed.Count} of {asked}:\n" + string.Join('\n', failed.Take(60)));
        Assert.True(asked > 1500, $"Only {asked} requests.");
        // Some of what is sent is understood and done; the pages must show all that was taken in.
        Assert.InRange(server.Get<Workspace>().Project.Revision - revision, 0, 200L * Rounds);
        foreach (string page in new[] { "/api/project", "/api/findings", "/api/trends", "/api/alarms", "/api/schedules", "/api/sequences", "/api/history", "/api/controllers" })
        {
            int status = (int)(await client.Get(page)).StatusCode;
            Assert.True(status < 500, $"{page} answers {status}");
        }
    }

    private static IEnumerable<(string Query, string? Body, bool IsBinary)> Cases(JsonNode description, JsonNode operation, Random random)
    {
        var queries = (operation["parameters"]?.AsArray() ?? []).Where(p => p!["in"]!.GetValue<string>() == "query").Select(p => p!["name"]!.GetValue<string>()).ToList();
        string Query() => queries.Count == 0 ? "" : "?" + string.Join('&', queries.Where(_ => random.Next(8) > 0).Select(q => $"{q}={Uri.EscapeDataString(Texts[random.Next(Texts.Length)])}"));
        JsonNode? schema = operation["requestBody"]?["content"]?["application/json"]?["schema"];
        yield return (Query(), operation["requestBody"] is null ? null : "{}", false);
        for (int i = 0; i < (queries.Count > 0 ? 12 : 1); i++) yield return (Query(), null, false);
        foreach (string body in Bodies) yield return (Query(), body, schema is null);
        if (schema is null) yield break;
        JsonNode? sample = Sample(description, schema, 0);
        foreach (JsonNode? mutant in Mutants(sample)) yield return (Query(), mutant?.ToJsonString() ?? "null", false);
    }

    /// <summary>Something of the right shape: every property there, each of its type.</summary>
    private static JsonNode? Sample(JsonNode description, JsonNode? schema, int depth)
    {
        if (schema is null || depth > 6) return null;
        if (schema["$ref"] is { } reference) return Sample(description, reference.GetValue<string>().Split('/').Skip(1).Aggregate((JsonNode?)description, (node, part) => node is JsonArray list ? list[int.Parse(part, System.Globalization.CultureInfo.InvariantCulture)] : node?[part]), depth + 1);
        if (schema["enum"] is JsonArray options) return options[0]?.DeepClone();
        if ((schema["oneOf"] ?? schema["anyOf"]) is JsonArray choices) return Sample(description, choices.First(c => c!["type"]?.ToString() != "null")!, depth + 1);
        string type = schema["type"] is JsonArray types ? types.Select(t => t!.GetValue<string>()).First(t => t != "null") : schema["type"]?.GetValue<string>() ?? "object";
        switch (type)
        {
            case "array": return new JsonArray(Sample(description, schema["items"]!, depth + 1));
            case "integer" or "number": return 7;
            case "boolean": return true;
            case "string": return "kiln-temp";
            default:
                var made = new JsonObject();
                foreach (var (name, property) in schema["properties"]?.AsObject() ?? []) made[name] = Sample(description, property!, depth + 1);
                return made;
        }
    }

    private static IEnumerable<JsonNode?> Mutants(JsonNode? sample)
    {
        yield return sample?.DeepClone();
        if (sample is not JsonObject root) yield break;
        JsonNode?[] wrong = [null, "", "x", "\u202e\u0000", -1, 1e308, true, new JsonArray(), new JsonObject(), new JsonArray(null, 7), "9999-12-31", new string('z', 20_000)];
        foreach (string name in root.Select(p => p.Key).ToList())
        {
            foreach (JsonNode? value in wrong)
            {
                var mutant = (JsonObject)root.DeepClone();
                mutant[name] = value?.DeepClone();
                yield return mutant;
            }
        }
    }

    /// <summary>One field of one record of the demo replaced by something else, again and again: taken or refused in words, and every page still answers.</summary>
    [Fact]
    public async Task Records_with_one_field_gone_wrong_are_taken_or_refused_and_every_page_goes_on()
    {
        Client client = await server.As("engineer");
        var random = new Random(5);
        var records = server.Get<Workspace>().Project.Records.OrderBy(r => r.Id).ToList();
        JsonNode?[] wrong = [null, "", "x", -1, 0.5, 1e308, true, new JsonArray(), new JsonObject(), "\u202ename", "a\u200bb", new string('y', 100_000)];
        for (int i = 0; i < 400 * Rounds; i++)
        {
            var record = records[random.Next(records.Count)];
            var body = (JsonObject)JsonNode.Parse(Core.Records.RecordJson.Write(record))!;
            string field = body.Select(p => p.Key).ElementAt(random.Next(body.Count));
            if (random.Next(12) == 0) body.Remove(field);
            else body[field] = wrong[random.Next(wrong.Length)]?.DeepClone();
            long at = server.Get<Workspace>().Project.FindEntry(record.Id)?.Revision ?? 0;
            HttpResponseMessage answer = await client.Http.PostAsync("/api/changes", new StringContent(new JsonObject { ["edits"] = new JsonArray(new JsonObject { ["put"] = body, ["from"] = at }) }.ToJsonString(), Encoding.UTF8, "application/json"));
            Assert.True((int)answer.StatusCode < 500, $"{(int)answer.StatusCode} {field} of {record.Id}: {await answer.Content.ReadAsStringAsync()}");
        }
        foreach (string page in new[] { "/api/project", "/api/findings", "/api/trends", "/api/alarms", "/api/schedules", "/api/sequences", "/api/history", "/api/controllers", "/api/tags/export?form=zinc" })
            Assert.True((int)(await client.Get(page)).StatusCode < 500, page);
        Assert.All(records.Take(60), r => Assert.NotEqual(500, (int)client.Get($"/api/dossier/{r.Id}").Result.StatusCode));
    }
}
