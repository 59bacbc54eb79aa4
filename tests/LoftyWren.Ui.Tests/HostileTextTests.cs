using System.Text.Json;

namespace LoftyWren.Ui.Tests;

/// <summary>
/// Texts that would be scripts, elements or templates if a page took them for more than texts, in every text of the demo's
/// records that takes them. Each page is opened; none makes an element of them, none runs anything. The content security
/// policy would stop most of it too, so what is asked is that there is nothing to stop.
/// </summary>
public sealed class HostileTextTests : IClassFixture<DemoServer>
{
    private static readonly string[] Texts =
    [
        "<img src=x onerror=hit=1>", "\"><script>hit=1</script>", "<svg/onload=hit=1>", "{{constructor.constructor('hit=1')()}}", "javascript:hit=1", "<iframe srcdoc=x>", "<b id=hit>", "' onfocus=hit=1 autofocus='",
    ];

    private static readonly string[] Pages =
    [
        "/", "/plan/kh", "/list/import", "/list/summary", "/library", "/tags", "/names", "/findings", "/projects", "/history", "/wire", "/wire/kh-c1", "/program", "/program/kiln-seq", "/supervise", "/supervise/schedules/hours",
        "/supervise/trends", "/supervise/alarms", "/draw", "/commission", "/commission/kh-c1", "/operate", "/operate/held", "/operate/trail", "/wire/bus", "/wire/bus/bus-dim-1", "/wire/conversations", "/wire/groups", "/wire/bus-matrix", "/wire/bus-table",
        "/commission/bus", "/commission/bus/bus-dim-1", "/commission/monitor",
    ];

    private readonly DemoServer _demo;

    public HostileTextTests(DemoServer demo) => _demo = demo;

    [Fact]
    public void No_page_takes_a_text_for_more_than_a_text()
    {
        using var browser = new Browser(_demo.Running.Address);
        browser.EnterDemoAs("engineer");
        // Every record of the project file, with a hostile text behind each of its texts: those that are refused stay as they are.
        browser.Script(Hurt, JsonSerializer.Serialize(Texts));
        browser.Until("every record is hurt", () => browser.Script("return window.hurt ?? null") is not null);
        string count = (string)browser.Script("return window.hurt")!;
        string[] numbers = count.Split(' ');
        Assert.True(int.Parse(numbers[0]) > 250, $"Only {count} texts were taken.");
        browser.Script("document.title = 'hurt'");
        foreach (string page in Pages)
        {
            browser.GoTo(page);
            browser.Until($"{page} is drawn", () => browser.Count("h1, .where, .tree") > 0);
            browser.Until($"{page} is quiet", () => browser.Count(".loading") == 0);
            Assert.Equal("", (string)browser.Script("""
                const made = [...document.querySelectorAll('img[src="x"], svg[onload], iframe, #hit, script:not([src]), [onfocus], [onerror], a[href^="javascript"]')].map(e => e.outerHTML.slice(0, 120))
                if (window.hit && !(window.hit instanceof Element)) made.push('a script ran')
                return made.join(' | ')
                """)!);
        }
        Assert.DoesNotContain(browser.Complaints(), c => c.Contains("Content Security Policy", StringComparison.Ordinal));
    }

    private const string Hurt = """
        const texts = JSON.parse(arguments[0]);
        (async () => {
          const ask = async (path, body) => (await fetch(path, body === undefined ? {} : { method: 'POST', headers: { 'Content-Type': 'application/json', 'X-Lofty-Wren': '1' }, body: JSON.stringify(body) }))
          const ids = new Set()
          for (const list of ['project', 'points', 'schedules', 'sequences', 'controllers', 'alarm-rules', 'trends', 'floors', 'buildings', 'tags/rules', 'floors/kh-1/view', 'controllers/kh-c1/panel'])
            for (const [, id] of (await (await ask('/api/' + list)).text()).matchAll(/"[a-zA-Z]*[iI]d":"([a-z0-9-]+)"/g)) ids.add(id)
          // Of what is there by the hundred, some of each.
          for (const list of ['lines', 'devices', 'conversations', 'groups'])
            for (const one of (await (await ask('/api/bus/' + list)).json()).slice(0, 20)) ids.add(one.id ?? one.line.id)
          const records = []
          for (const id of ids) { const answer = await ask('/api/records/' + id); if (answer.ok) records.push(await answer.json().then(r => r.record ?? r)) }
          let taken = 0, refused = 0, n = 0
          const set = (record, path, value) => { const copy = structuredClone(record); let at = copy; for (const key of path.slice(0, -1)) at = at[key]; at[path.at(-1)] = value; return copy }
          const keep = /^(id|type|kind|role|.*Id|in|unit|timeZone|model|terminal|signal|pin|block|key|word|option|value|quantity|action|fault|from|to|date|weekday|scale|rule|.*Key)$/
          const paths = (part, path = []) => typeof part === 'string' ? [path] : Array.isArray(part) ? part.flatMap((p, i) => paths(p, [...path, i])) : part && typeof part === 'object' ? Object.entries(part).filter(([k]) => !keep.test(k)).flatMap(([k, p]) => paths(p, [...path, k])) : []
          const wantedOf = record => [...paths(record), ...(['point', 'alarm', 'schedule', 'place', 'equipment', 'busDevice', 'conversation'].includes(record.type) && !record.description ? [['description']] : [])].slice(0, 6)
          const hurt = (record, wanted) => wanted.reduce((r, path) => set(r, path, texts[n++ % texts.length]), record)
          for (let i = 0; i < records.length; i += 20) {
            const some = records.slice(i, i + 20).map(record => ({ record, wanted: wantedOf(record) })).filter(s => s.wanted.length)
            // Many at once; where something is refused, a record at a time; where something of that is refused, text by text.
            if ((await ask('/api/changes', { edits: some.map(s => ({ put: hurt(s.record, s.wanted) })) })).ok) { for (const s of some) taken += s.wanted.length; continue }
            for (let { record, wanted } of some) {
              if ((await ask('/api/changes', { edits: [{ put: hurt(record, wanted) }] })).ok) { taken += wanted.length; continue }
              for (const path of wanted) {
                const changed = set(record, path, texts[n++ % texts.length])
                if ((await ask('/api/changes', { edits: [{ put: changed }] })).ok) { record = changed; taken++ } else refused++
              }
            }
          }
          window.hurt = taken + ' ' + refused + ' ' + records.length
        })()
        """;
}
