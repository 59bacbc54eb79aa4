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
    public void Wrong_passwords_lock_for_longer_and_longer_and_a_right_one_does_not_open_early()
    {
        MakeKeeper();
        for (int i = 0; i < 3; i++) Assert.DoesNotContain("Next try", _accounts.Try("keeper", "wrong-one").Why);
        Assert.Contains("Next try in 2 s", _accounts.Try("keeper", "wrong-one").Why);
        Assert.Contains("Too many wrong passwords", _accounts.Try("keeper", "quay-side-9").Why);
        _clock.Now += TimeSpan.FromSeconds(2.1);
        Assert.Contains("Next try in 4 s", _accounts.Try("keeper", "wrong-one").Why);
        _clock.Now += TimeSpan.FromSeconds(4.1);
        Assert.Contains("Next try in 8 s", _accounts.Try("keeper", "wrong-one").Why);
        _clock.Now += TimeSpan.FromSeconds(8.1);
        Assert.NotNull(_accounts.Try("keeper", "quay-side-9").Account);
        Assert.DoesNotContain("Next try", _accounts.Try("keeper", "wrong-one").Why);
    }

    [Fact]
    public void An_unknown_name_and_a_wrong_password_sound_alike()
    {
        MakeKeeper();
        Assert.Equal(_accounts.Try("nobody", "whatever-1").Why, _accounts.Try("keeper", "whatever-1").Why);
    }

    [Fact]
    public void Passwords_are_kept_only_as_hashes_and_a_change_ends_every_session()
    {
        MakeKeeper();
        Account before = _store.Find("keeper")!;
        Assert.DoesNotContain("quay-side-9", before.PasswordHash);
        Assert.NotNull(_accounts.WithStamp("keeper", before.Stamp));
        Assert.Null(_accounts.ChangePassword("keeper", "tide-mark-7"));
        Assert.Null(_accounts.WithStamp("keeper", before.Stamp));
        Assert.NotNull(_accounts.Try("keeper", "tide-mark-7").Account);
        Assert.Null(_accounts.Try("keeper", "quay-side-9").Account);
    }

    [Theory]
    [InlineData("x", "long-enough-1", "2 to 40")]
    [InlineData("a b", "long-enough-1", "2 to 40")]
    [InlineData("keeper2", "keeper2", "at least 8")]
    [InlineData("somebody", "SOMEBODY", "must differ")]
    public void Names_and_passwords_that_will_not_do(string name, string password, string why) => Assert.Contains(why, _accounts.Add(name, password, Role.Viewer));
}
