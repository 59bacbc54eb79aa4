using LoftyWren.Core.Bus.Security;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Records;
using LoftyWren.Server.Bus.Work;
using LoftyWren.Storage.Secrets;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Server.Tests;

/// <summary>The vault of the keys of bus devices: opened by its passphrase alone, over restarts, changed whole, and of no use to whoever moves what is in it about.</summary>
public sealed class BusKeysTests : IDisposable
{
    private const string First = "salt and cobalt blue", Second = "another set of words";
    private static readonly RecordId Button = new("button"), Actuator = new("actuator");
    private readonly string _folder = Directory.CreateTempSubdirectory("lofty-wren-keys-").FullName;

    public BusKeysTests() => BusKeys.Rounds = 1000;

    private string File => Path.Combine(_folder, "keys.db");

    private BusKeys Vault() => new(new KeyStore(File));

    private static BusCertificate Certificate(ulong serial) => BusCertificate.OfStandIn(BusSerial.Label(serial));

    public void Dispose()
    {
        SqliteConnection.ClearAllPools();
        Directory.Delete(_folder, recursive: true);
    }

    [Fact]
    public void Keys_are_there_again_after_a_restart_by_the_passphrase_alone()
    {
        byte[] tool;
        using (BusKeys keys = Vault())
        {
            Assert.Equal(VaultState.None, keys.State);
            Assert.Contains("passphrase", Assert.Throws<InvalidOperationException>(() => keys.Keep(Button, Certificate(1))).Message, StringComparison.Ordinal);
            keys.Open(First);
            keys.Keep(Button, Certificate(1));
            tool = [.. keys.Of(Button)!.Tool];
            Assert.Equal(Convert.ToHexString(Certificate(1).Key), Convert.ToHexString(keys.Of(Button)!.Certified));
            // Known once more it keeps the key that the device may have by now; another certificate is another device.
            keys.Keep(Button, Certificate(1));
            Assert.Equal(Convert.ToHexString(tool), Convert.ToHexString(keys.Of(Button)!.Tool));
            keys.Keep(Actuator, Certificate(2));
            Assert.NotEqual(Convert.ToHexString(tool), Convert.ToHexString(keys.Of(Actuator)!.Tool));
        }
        using BusKeys again = Vault();
        Assert.Equal(VaultState.Locked, again.State);
        Assert.True(again.Knows(Button));
        Assert.Null(again.Of(Button));
        foreach (string wrong in (string[])["", "salt and cobalt", First + " ", First.ToUpperInvariant()]) Assert.Contains("not the passphrase", Assert.Throws<InvalidOperationException>(() => again.Open(wrong)).Message, StringComparison.Ordinal);
        again.Open(First);
        Assert.Equal(Convert.ToHexString(tool), Convert.ToHexString(again.Of(Button)!.Tool));
        again.Close();
        Assert.Null(again.Of(Button));
        Assert.Equal(VaultState.Locked, again.State);
    }

    [Fact]
    public void Another_passphrase_seals_all_keys_anew()
    {
        using BusKeys keys = Vault();
        keys.Open(First);
        keys.Keep(Button, Certificate(1));
        string tool = Convert.ToHexString(keys.Of(Button)!.Tool);
        Assert.Contains("12 letters", Assert.Throws<InvalidOperationException>(() => keys.Change(First, "short")).Message, StringComparison.Ordinal);
        // Who finds them open and does not know the present passphrase locks nobody out.
        Assert.Contains("not the present passphrase", Assert.Throws<InvalidOperationException>(() => keys.Change(Second, Second)).Message, StringComparison.Ordinal);
        keys.Change(First, Second);
        Assert.Equal(tool, Convert.ToHexString(keys.Of(Button)!.Tool));
        keys.Close();
        Assert.Throws<InvalidOperationException>(() => keys.Open(First));
        Assert.Contains("present passphrase", Assert.Throws<InvalidOperationException>(() => keys.Change(Second, First)).Message, StringComparison.Ordinal);
        keys.Open(Second);
        Assert.Equal(tool, Convert.ToHexString(keys.Of(Button)!.Tool));
    }

    // Whoever can write to the file cannot make one device's key another's, nor a key that opens.
    [Fact]
    public void What_is_moved_about_or_changed_in_the_store_opens_no_more()
    {
        using (BusKeys keys = Vault())
        {
            keys.Open(First);
            keys.Keep(Button, Certificate(1));
            keys.Keep(Actuator, Certificate(2));
        }
        using (var store = new KeyStore(File))
        {
            byte[] one = store.All()[Button.Value], other = [.. store.All()[Actuator.Value]];
            store.Keep(Actuator.Value, one);
            other[^1] ^= 1;
            store.Keep("third", other);
        }
        using BusKeys again = Vault();
        again.Open(First);
        Assert.NotNull(again.Of(Button));
        Assert.Null(again.Of(Actuator));
        Assert.Null(again.Of(new RecordId("third")));
    }

    [Fact]
    public void What_is_forgotten_is_gone()
    {
        using BusKeys keys = Vault();
        keys.Open(First);
        keys.Keep(Button, Certificate(1));
        keys.Forget(Button);
        Assert.False(keys.Knows(Button));
        Assert.Null(keys.Of(Button));
        using var store = new KeyStore(File);
        Assert.Empty(store.All());
    }
}
