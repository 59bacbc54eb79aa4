using System.Net;
using System.Text.Json.Nodes;

namespace LoftyWren.Server.Tests;

/// <summary>Whatever is asked wrongly is answered with a sentence that says what is wrong and what to do, and changes nothing.</summary>
public class RefusalTests(DemoServer server) : IClassFixture<DemoServer>
{
    private const string Long = "xxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxx";

    [Theory]
    [InlineData("engineer", "/api/blocks/story", """{"id":"b","kind":"ton","numbers":{"pt":-1}}""", "The delay of ‘On-delay’ is -1; it must be from 0 to 604800.")]
    [InlineData("engineer", "/api/blocks/story", """{"id":"b","kind":"curve","tables":{"points":[]}}""", "The points of ‘Curve’ are 2 to 32 rows; there are 0.")]
    [InlineData("engineer", "/api/libraries", """{"name":" ","shared":true}""", "A library's name has 1 to 60 characters.")]
    [InlineData("engineer", "/api/libraries/starter/reading", """{"isForReading":false}""", "The starter library ships with the program and stays for reading. Copy a template into a library of your own.")]
    [InlineData("engineer", "/api/placements/kiln-extract/update", """{"giveUp":[]}""", "This equipment was not placed from a template, or was detached from it.")]
    [InlineData("engineer", "/api/placements/no-such/detach", "{}", "This equipment was not placed from a template, or was detached from it.")]
    [InlineData("engineer", "/api/copies", """{"recordId":"kiln-temp","times":1,"namePattern":"x"}""", "A room, a floor, a building or equipment can be copied; choose one.")]
    [InlineData("engineer", "/api/copies", """{"recordId":"kh-g-office","times":501,"namePattern":"x {n}"}""", "Make 1 to 500 copies.")]
    [InlineData("engineer", "/api/copies", """{"recordId":"kh-g-office","times":2,"namePattern":"x"}""", "Put {n} into the name, so that each copy has its own.")]
    [InlineData("engineer", "/api/names/fix", """{"ids":["kiln-temp"]}""", "None of these has a name it could be given: they follow the convention, or nothing fits.")]
    [InlineData("engineer", "/api/names/words/correct", """{"word":"teh","to":""}""", "Write what the word should be, in up to 40 letters.")]
    [InlineData("engineer", "/api/names/words/correct", """{"word":"zeppelin","to":"airship"}""", "‘zeppelin’ stands nowhere any more.")]
    [InlineData("engineer", "/api/names/words/own", """{"words":["a","b"]}""", "These words are known already.")]
    [InlineData("engineer", "/api/grid/point/replace", """{"scope":"site","column":"name","find":"zeppelin","replace":"airship"}""", "‘zeppelin’ is nowhere in this column. Nothing was changed.")]
    [InlineData("engineer", "/api/lists/preview", """{"token":"no-such","sheet":0,"mapping":{"columns":[]}}""", "This list is no longer here; lists are kept for an hour. Choose the file again.")]
    [InlineData("engineer", "/api/snapshots", """{"name":" "}""", "A snapshot's name has 1 to 120 characters.")]
    [InlineData("engineer", "/api/findings/silence", """{"key":"no-such","recordId":"kiln-temp","reason":"x"}""", "This finding is gone, or is silenced already.")]
    [InlineData("engineer", "/api/findings/fix", """{"key":"no-such","recordId":"kiln-temp"}""", "This finding is gone, or has no mend at one click.")]
    [InlineData("engineer", "/api/projects/main/name", """{"name":" "}""", "A project's name has 1 to 80 characters, in one line.")]
    [InlineData("engineer", "/api/projects", """{"name":"Copy","copyOf":"no-such"}""", "The project to copy is not there, or is archived. Bring it back first.")]
    [InlineData("engineer", "/api/projects/no-such/restore", "{}", "This project is not in the list.")]
    [InlineData("engineer", "/api/schedules/hours/phrase", """{"text":"LONG LONG","apply":false}""", "A phrase has at most 200 characters.")]
    [InlineData("technician", "/api/site/clock", """{"speed":7}""", "The site clock runs at 1×, 60×, 600×, 3600×.")]
    [InlineData("technician", "/api/site/clock", """{"stepSeconds":0}""", "A step is between 1 s and one day.")]
    [InlineData("operator", "/api/held/release", """{"pointId":"kiln-fan"}""", "This is not held any more.")]
    [InlineData("operator", "/api/alarms/1/acknowledge", """{"note":"LONG LONG LONG LONG LONG"}""", "A note has at most 500 characters.")]
    [InlineData("operator", "/api/me/password", """{"old":"wrong","new":"quay-side-9"}""", "The old password is not right.")]
    [InlineData("technician", "/api/contacts/discover", """{"network":"the office"}""", "‘the office’ is no address with a port. Write one such as 192.168.1.255:47900.")]
    [InlineData("technician", "/api/contacts/discover", """{"network":"[::1]:47900"}""", "‘[::1]:47900’ is no address with a port. Write one such as 192.168.1.255:47900.")]
    [InlineData("technician", "/api/contacts/kh-c1/look", """{"host":"127.0.0.1","port":70000}""", "A port is between 1 and 65535, not 70000.")]
    [InlineData("technician", "/api/contacts/kh-c1/look", """{"host":" ","port":1}""", "Say at which host it is: a name or an address.")]
    [InlineData("technician", "/api/contacts/kh-c1/look", """{"host":"127.0.0.1","port":1}""", "Nobody answers at 127.0.0.1:1 as a controller does. See that it has its supply and that its address is right.")]
    [InlineData("technician", "/api/contacts/kh-c1/link", """{"kilobitsPerSecond":0,"lossPercent":0,"roundTripMilliseconds":0}""", "A connection carries between 1 kbit/s and 10 Gbit/s.")]
    [InlineData("technician", "/api/contacts/kh-c1/link", """{"kilobitsPerSecond":10,"lossPercent":101,"roundTripMilliseconds":0}""", "Frames are lost to 0 to 100 %, and an answer takes 0 to 5000 ms.")]
    [InlineData("technician", "/api/contacts/kh-c1/forget", """{"why":""}""", "Say why in a few words (at most 200 characters); its certificate and the credentials kept for it are forgotten.")]
    [InlineData("technician", "/api/contacts/set-up", """{"targets":[]}""", "Between one and 500 controllers are set up at a time.")]
    [InlineData("technician", "/api/contacts/set-up", """{"targets":[{"hostId":"kh-c1","serial":"a","host":"h","port":1,"fingerprint":"f"},{"hostId":"kh-c2","serial":"a","host":"h","port":2,"fingerprint":"f"}]}""", "One controller, or one device, is named twice. Give each controller a device of its own.")]
    [InlineData("technician", "/api/comparisons/hours", """{"hours":-1}""", "They are compared every 1 to 744 h of site time, or never (0).")]
    [InlineData("engineer", "/api/orphans/remove", """{"keys":["log|no-such"],"why":"x"}""", "Something of the list is not left over any more. Look at the list again; nothing was removed.")]
    [InlineData("engineer", "/api/orphans/map", """{"hostId":"kh-c1","recordId":"kiln-temp","to":"kiln-temp"}""", "‘Room temperature’ is on KH-C1 UI1 already. Take it off there first, or choose another.")]
    [InlineData("technician", "/api/jobs/no-such/stop", "{}", "This job does not run any more.")]
    [InlineData("technician", "/api/jobs/no-such/resume", "{}", "This job is not stopped, so it cannot be resumed.")]
    [InlineData("technician", "/api/jobs/no-such/drop", "{}", "This job is at work, or is not there any more. Stop it first.")]
    public async Task What_is_asked_wrongly_is_refused_in_words(string account, string path, string body, string sentence)
    {
        Client client = await server.As(account);
        long before = (await client.Read("/api/project"))["revision"]!.GetValue<long>();
        HttpResponseMessage answer = await client.Post(path, JsonNode.Parse(body.Replace("LONG", Long, StringComparison.Ordinal)));
        Assert.Equal((HttpStatusCode.UnprocessableEntity, sentence), (answer.StatusCode, await Client.Detail(answer)));
        Assert.Equal(before, (await client.Read("/api/project"))["revision"]!.GetValue<long>());
    }

    [Theory]
    [InlineData("/api/grid/point?scope=site&group=colour", "Points are grouped by building, floor, room, owner, equipmentKind, kind, role, unit, controller")]
    [InlineData("/api/grid/teapot?scope=site", "This kind of record is not in the project. It may have been removed; go back and look again.")]
    [InlineData("/api/lists/summary?by=colour", "A summary is by floor, room, panel or equipmentKind; choose one.")]
    [InlineData("/api/lists/summary/file?by=colour", "A summary is by floor, room, panel or equipmentKind; choose one.")]
    [InlineData("/api/tags/export?form=word", "The model leaves as zinc, trio, json or brick; choose one.")]
    [InlineData("/api/trends/data?ids=a,b,c,d,e,f,g,h,i,j,k,l,m&from=0&to=1", "A chart shows at most 12 trends.")]
    [InlineData("/api/trends/data?ids=a&from=2&to=1", "The end of the chart must be after its beginning.")]
    [InlineData("/api/schedules/hours/days?from=29.3.2026", "‘29.3.2026’ is not a date. Write 2026-03-29.")]
    [InlineData("/api/why/kh-c1", "Why? explains points, alarms, equipment and places.")]
    [InlineData("/api/ladders/kiln-temp-not", "")]
    public async Task A_wrong_question_is_answered_in_words(string path, string sentence)
    {
        HttpResponseMessage answer = await (await server.As("viewer")).Get(path);
        Assert.InRange((int)answer.StatusCode, 400, 422);
        Assert.Contains(sentence, await Client.Detail(answer), StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("/api/copies", """{"times":2,"namePattern":"x {n}"}""")]
    [InlineData("/api/templates/place", """{"libraryId":"starter","templateId":"fcu-2","placing":{"each":1,"namePattern":"x"}}""")]
    [InlineData("/api/templates/place", """{"libraryId":"starter","templateId":"fcu-2","placing":{"places":[null],"each":1,"namePattern":"x"}}""")]
    [InlineData("/api/templates/place", """{"libraryId":"starter","templateId":"fcu-2","placing":{"places":null,"each":1,"namePattern":"x"}}""")]
    [InlineData("/api/findings/fix", """{"recordId":"kiln-temp"}""")]
    [InlineData("/api/lists/apply", """{"token":null,"sheet":0}""")]
    [InlineData("/api/names/words/own", """{"words":null}""")]
    [InlineData("/api/removal", """{"ids":[null]}""")]
    public async Task A_gap_or_a_null_in_a_request_is_named_and_never_breaks_the_server(string path, string body)
    {
        HttpResponseMessage answer = await (await server.As("engineer")).Post(path, JsonNode.Parse(body));
        Assert.Equal(HttpStatusCode.BadRequest, answer.StatusCode);
        Assert.False(string.IsNullOrWhiteSpace(await Client.Detail(answer)));
    }
}
