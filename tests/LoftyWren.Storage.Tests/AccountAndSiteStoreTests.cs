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
}
