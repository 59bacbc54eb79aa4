using LoftyWren.Server.Accounts;
using LoftyWren.Storage.Accounts;

namespace LoftyWren.Server.Tests;

public sealed class AccountDirectoryTests : IDisposable
{
    private readonly string _folder = Directory.CreateTempSubdirectory("lofty-wren-accounts-").FullName;
    private readonly AccountStore _store;
    private readonly HandClock _clock = new();
    private readonly AccountDirectory _accounts;

    public AccountDirectoryTests()
    {
        _store = new AccountStore(Path.Combine(_folder, "a.db"));
        _accounts = new AccountDirectory(_store, _clock);
    }

    public void Dispose()
    {
        _store.Dispose();
        Directory.Delete(_folder, recursive: true);
    }

    private sealed class HandClock : TimeProvider
    {
        public DateTimeOffset Now { get; set; } = new(2026, 4, 14, 9, 0, 0, TimeSpan.Zero);

        public override DateTimeOffset GetUtcNow() => Now;
    }

    private void MakeKeeper() => Assert.Null(_accounts.MakeFirst(_accounts.FirstAccountCode!, "keeper", "quay-side-9").Why);

    [Fact]
    public void The_first_account_needs_the_code_and_the_code_works_once()
    {
        string code = _accounts.FirstAccountCode!;
        Assert.Contains("not the code", _accounts.MakeFirst("WRONG", "keeper", "quay-side-9").Why);
        Assert.Contains("at least 8", _accounts.MakeFirst(code, "keeper", "short").Why);
        Assert.Equal(Role.Administrator, _accounts.MakeFirst(code.ToLowerInvariant(), "keeper", "quay-side-9").Account!.Role);
        Assert.Contains("has accounts already", _accounts.MakeFirst(code, "second", "quay-side-9").Why);
        Assert.Null(new AccountDirectory(_store, _clock).FirstAccountCode);
    }

    [Fact]
    public async Task Who_fails_at_one_account_keeps_nobody_of_the_same_address_out_of_another()
    {
        MakeKeeper();
        Assert.Null(_accounts.Add("other", "harbour-7-gulls", Role.Viewer));
        for (int i = 0; i < 60; i++) Assert.Null((await _accounts.Try("keeper", "wrong-one", "127.0.0.1")).Account);
        Assert.NotNull((await _accounts.Try("other", "harbour-7-gulls", "127.0.0.1")).Account);
    }

    private async Task<bool> LetsIn(string password) => (await _accounts.Try("keeper", password)).Account is not null;

    // After the fourth wrong password 2 s, then 4 s, then 8 s.
    [Fact]
    public async Task Wrong_passwords_lock_for_longer_and_longer_and_a_right_one_does_not_open_early()
    {
        MakeKeeper();
        for (int i = 0; i < 4; i++) Assert.False(await LetsIn("wrong-one"));
        foreach (double wait in new[] { 2, 4, 8 })
        {
            _clock.Now += TimeSpan.FromSeconds(wait - 0.1);
            Assert.False(await LetsIn("quay-side-9"));
            _clock.Now += TimeSpan.FromSeconds(0.2);
            if (wait < 8) Assert.False(await LetsIn("wrong-one"));
        }
        Assert.True(await LetsIn("quay-side-9"));
        Assert.False(await LetsIn("wrong-one"));
        Assert.True(await LetsIn("quay-side-9"));
    }

    [Fact]
    public async Task Every_failure_has_one_sentence_so_that_nobody_learns_which_names_exist()
    {
        MakeKeeper();
        var said = new HashSet<string?>();
        for (int i = 0; i < 12; i++)
        {
            said.Add((await _accounts.Try("nobody", "whatever-1")).Why);
            said.Add((await _accounts.Try("keeper", "whatever-1")).Why);
        }
        said.Add((await _accounts.Try("keeper", "quay-side-9")).Why);
        Assert.Equal([AccountDirectory.Wrong], said);
    }

    [Fact]
    public async Task A_clock_that_was_far_ahead_for_a_while_locks_nobody_out_for_that_long()
    {
        MakeKeeper();
        DateTimeOffset right = _clock.Now;
        _clock.Now = right.AddDays(400);
        for (int i = 0; i < 6; i++) Assert.False(await LetsIn("wrong-one"));
        _clock.Now = right;
        Assert.False(await LetsIn("quay-side-9"));
        _clock.Now = right.AddSeconds(10);
        Assert.True(await LetsIn("quay-side-9"));
    }

    [Fact]
    public async Task An_address_that_fails_too_often_waits_and_others_do_not()
    {
        MakeKeeper();
        for (int i = 0; i < 30; i++) await _accounts.Try($"nobody{i}", "whatever-1", "10.0.0.7");
        Assert.Null((await _accounts.Try("keeper", "quay-side-9", "10.0.0.7")).Account);
        Assert.NotNull((await _accounts.Try("keeper", "quay-side-9", "10.0.0.8")).Account);
    }

    [Fact]
    public async Task The_queue_of_those_who_sign_in_does_not_grow()
    {
        MakeKeeper();
        SignInResult[] results = await Task.WhenAll(Enumerable.Range(0, 200).Select(i => _accounts.Try("keeper", "quay-side-9", $"{i}")));
        Assert.All(results, r => Assert.True(r.Account is not null || r.Why!.StartsWith("Too many people", StringComparison.Ordinal)));
        Assert.InRange(results.Count(r => r.Account is not null), 1, 199);
        Assert.True(await LetsIn("quay-side-9"));
    }

    [Fact]
    public async Task Passwords_are_kept_only_as_hashes_and_a_change_ends_every_session()
    {
        MakeKeeper();
        Account before = _store.Find("keeper")!;
        Assert.DoesNotContain("quay-side-9", before.PasswordHash);
        Assert.NotNull(_accounts.WithStamp("keeper", before.Stamp));
        Assert.Null(_accounts.ChangePassword("keeper", "tide-mark-7"));
        Assert.Null(_accounts.WithStamp("keeper", before.Stamp));
        Assert.True(await LetsIn("tide-mark-7"));
        Assert.False(await LetsIn("quay-side-9"));
    }

    [Fact]
    public void Sessions_end_at_once_with_their_lines_and_are_kept_over_a_restart()
    {
        var sessions = new Sessions(_store, _clock);
        string here = sessions.Begin("keeper"), there = sessions.Begin("keeper"), other = sessions.Begin("second");
        var ended = new List<string>();
        Assert.True(sessions.Tie("line-1", here, () => ended.Add("line-1")));
        Assert.True(sessions.Tie("line-2", there, () => ended.Add("line-2")));
        Assert.True(sessions.Tie("line-3", other, () => ended.Add("line-3")));
        Assert.False(sessions.Tie("line-4", "made-up", () => { }));
        sessions.End(here);
        Assert.Equal(["line-1"], ended);
        Assert.False(sessions.GoesOn(here, "keeper"));
        Assert.False(sessions.GoesOn(there, "second"));
        var restarted = new Sessions(_store, _clock);
        Assert.False(restarted.GoesOn(here, "keeper"));
        Assert.True(restarted.GoesOn(there, "Keeper"));
        sessions.EndAll("keeper");
        Assert.Equal(["line-1", "line-2"], ended);
        Assert.True(sessions.GoesOn(other, "second"));
    }

    [Theory]
    [InlineData("x", "long-enough-1", "2 to 40")]
    [InlineData("a b", "long-enough-1", "2 to 40")]
    [InlineData("keeper2", "keeper2", "at least 8")]
    [InlineData("somebody", "SOMEBODY", "must differ")]
    public void Names_and_passwords_that_will_not_do(string name, string password, string why) => Assert.Contains(why, _accounts.Add(name, password, Role.Viewer));
}
