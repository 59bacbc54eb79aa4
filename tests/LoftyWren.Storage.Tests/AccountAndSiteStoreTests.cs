using Microsoft.Data.Sqlite;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Site;

namespace LoftyWren.Storage.Tests;

public class AccountAndSiteStoreTests : Folder
{
    [Fact]
    public void Names_are_unique_whatever_their_letter_case()
    {
        using var store = new AccountStore(File("a.db"));
        Assert.True(store.IsEmpty);
        Assert.True(store.Add(new Account("Keeper", Role.Engineer, "hash", "stamp", 0, 0)));
        Assert.False(store.Add(new Account("keeper", Role.Viewer, "other", "other", 0, 0)));
        Assert.Equal(Role.Engineer, store.Find("KEEPER")!.Role);
        Assert.Null(store.Find("nobody"));
    }

    [Fact]
    public void An_update_changes_all_but_the_name()
    {
        using var store = new AccountStore(File("a.db"));
        store.Add(new Account("keeper", Role.Engineer, "hash", "stamp", 0, 0));
        store.Update(new Account("keeper", Role.Operator, "new", "fresh", 3, 99));
        Assert.Equal(new Account("keeper", Role.Operator, "new", "fresh", 3, 99), Assert.Single(store.All()));
    }

    [Fact]
    public void Parts_of_the_site_are_kept_by_key()
    {
        using (var store = new SiteStore(File("s.db")))
        {
            store.Write([("plant", [1, 2]), ("image/c", [3])]);
            store.Write([("plant", [4])]);
        }
        using var again = new SiteStore(File("s.db"));
        var parts = again.Read();
        Assert.Equal([4], parts["plant"]);
        Assert.Equal([3], parts["image/c"]);
    }

    [Fact]
    public void The_trail_pages_backwards_and_is_written_with_what_was_done_or_not_at_all()
    {
        using var store = new SiteStore(File("s.db"));
        for (int i = 1; i <= 5; i++) store.Write([("plant", [(byte)i])], new TrailEntry(0, i, i * 10, "operator", $"did {i}", null));
        var page = store.TrailPage(long.MaxValue, 2);
        Assert.Equal(["did 5", "did 4"], page.Select(t => t.What));
        Assert.Equal(["did 3", "did 2"], store.TrailPage(page[^1].Id, 2).Select(t => t.What));
        // One part that cannot be written, and nothing of it all is.
        Assert.Throws<SqliteException>(() => store.Write([("plant", [9]), (null!, [9])], new TrailEntry(0, 9, 9, "operator", "did 9", null)));
        Assert.Equal("did 5", store.TrailPage(long.MaxValue, 1)[0].What);
        Assert.Equal([5], store.Read()["plant"]);
    }

    [Fact]
    public void Sessions_are_kept_and_the_oldest_of_many_go()
    {
        using (var store = new AccountStore(File("a.db")))
        {
            for (int i = 0; i < AccountStore.MostSessions + 5; i++) store.AddSession($"s{i}", "keeper", i);
            store.AddSession("other", "second", 0);
            store.RemoveSessions(["s200", "unknown"]);
        }
        using var again = new AccountStore(File("a.db"));
        Assert.Equal(AccountStore.MostSessions, again.Sessions().Count);
        Assert.DoesNotContain("s4", again.Sessions().Select(s => s.Id));
        Assert.DoesNotContain("s200", again.Sessions().Select(s => s.Id));
        Assert.Contains(("other", "second"), again.Sessions());
    }
}
