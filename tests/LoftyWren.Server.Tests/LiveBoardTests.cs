using System.Collections.Concurrent;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Records;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Live;

namespace LoftyWren.Server.Tests;

/// <summary>Live values by handle: found once, read once, the newest to each client, and nobody waits for a slow one.</summary>
public class LiveBoardTests(DemoServer server) : IClassFixture<DemoServer>
{
    private SiteHost Site => server.Get<SiteHost>();

    private static readonly RecordId Fan = new("kiln-fan");

    private void Hold(double value) => Site.Ask(s =>
    {
        Site.HomeOf(Fan)!.Program!.HoldByHand(new Hold(Fan, value, "test", "to see it", s.Now, null));
        s.RunUntil(s.Now + 1000);
        return 0;
    });

    private void Release() => Site.Ask(s =>
    {
        Site.HomeOf(Fan)!.Program!.ReleaseHold(Fan);
        s.RunUntil(s.Now + 1000);
        return 0;
    });

    private static async Task Until(string what, Func<bool> so)
    {
        for (int i = 0; i < 1200 && !so(); i++) await Task.Delay(25);
        Assert.True(so(), what);
    }

    [Fact]
    public async Task A_slow_client_delays_nobody_and_gets_the_newest()
    {
        var got = new ConcurrentDictionary<string, ConcurrentQueue<string>>();
        using var gate = new SemaphoreSlim(0);
        var board = new LiveBoard(Site, async (who, values, gone) =>
        {
            if (who == "slow") await gate.WaitAsync(gone);
            foreach (LiveValue value in values.Where(v => v.Id == "p:kiln-fan")) got.GetOrAdd(who, _ => new()).Enqueue(value.Text);
        });
        try
        {
            Hold(0);
            board.Watch("quick", ["p:kiln-fan"]);
            board.Watch("slow", ["p:kiln-fan", "p:no-such"]);
            Assert.Equal(2, board.Count);
            await Until("who comes is sent all of it first", () => got.TryGetValue("quick", out var all) && all.Count == 1);
            foreach (int value in new[] { 1, 0, 1 })
            {
                // Counted before the look: the quick one may be told before the look has returned.
                int wanted = got["quick"].Count + 1;
                Hold(value);
                board.Look();
                await Until("the quick client is told each change at once, whatever the slow one does", () => got.TryGetValue("quick", out var told) && told.Count >= wanted);
            }
            Assert.Equal(["off", "on", "off", "on"], got["quick"]);
            Assert.False(got.ContainsKey("slow"));
            gate.Release(2);
            // It was on its way with one when it stopped; after that comes what is so now, not what was in between.
            await Until("the slow client comes to the newest", () => got.TryGetValue("slow", out var told) && told.LastOrDefault() == "on");
            Assert.InRange(got["slow"].Count, 1, 2);
        }
        finally
        {
            board.Forget("quick");
            board.Forget("slow");
            gate.Release(10);
            Release();
        }
        Assert.Equal(0, board.Count);
    }

    private LiveBoard Board(out ConcurrentDictionary<string, IReadOnlyList<LiveValue>> sent)
    {
        var first = new ConcurrentDictionary<string, IReadOnlyList<LiveValue>>();
        sent = first;
        return new LiveBoard(Site, (who, values, _) =>
        {
            first.TryAdd(who, values);
            return Task.CompletedTask;
        });
    }

    /// <summary>What a client that comes is sent first: all that it watches.</summary>
    private static async Task<IReadOnlyList<LiveValue>> Now(LiveBoard board, ConcurrentDictionary<string, IReadOnlyList<LiveValue>> sent, string who, params string[] ids)
    {
        board.Watch(who, ids);
        await Until("be sent all that is watched", () => sent.ContainsKey(who));
        Assert.Equal(ids, sent[who].Select(v => v.Id));
        return sent[who];
    }

    [Fact]
    public async Task What_is_watched_is_found_again_when_another_program_runs()
    {
        LiveBoard board = Board(out var sent);
        Assert.Equal("–", (await Now(board, sent, "c", "p:no-such", "x:y", "nonsense", ":", "b:kiln-seq"))[0].Text);
        string before = (await Now(board, sent, "e", "p:kiln-temp"))[0].Text;
        int generation = Site.Generation;
        Site.Command("test", "Started again", null, s =>
        {
            var controller = Site.HomeOf(new("kiln-temp"))!;
            var present = controller.Present;
            controller.Restart(controller.ImageBytes!, null, s.Now, controller.Version, controller.SentBy, controller.SentAt);
            s.Connect(controller.Id);
            s.RunUntil(s.Now + 1000);
            return () => controller.GoBack(present);
        }, Site.Ask(_ => Site.HomesOf(new("kiln-temp")).ToArray()));
        Assert.True(Site.Generation > generation);
        board.Look();
        Assert.Matches("^[0-9.]+ °C", (await Now(board, sent, "d", "p:kiln-temp"))[0].Text);
        Assert.Matches("^[0-9.]+ °C", before);
    }

    [Fact]
    public async Task A_value_is_said_as_what_runs_says_it()
    {
        LiveBoard board = Board(out var sent);
        var values = await Now(board, sent, "c", "s:hours", "b:kiln-seq/high/out", "p:kiln-limit");
        Assert.All(values, v => Assert.NotEqual("–", v.Text));
        Assert.Contains(values[0].Text, new[] { "open", "closed" });
        Assert.Contains(values[1].Text, new[] { "on", "off", "released" });
        Assert.EndsWith("°C", values[2].Text, StringComparison.Ordinal);
    }
}
