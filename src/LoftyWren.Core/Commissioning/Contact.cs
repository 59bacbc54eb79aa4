using LoftyWren.Core.Devices;
using LoftyWren.Core.Images;

namespace LoftyWren.Core.Commissioning;

/// <summary>What a controller tells whoever asks, before anybody has signed in.</summary>
/// <param name="Serial">Its serial number, which no other has.</param>
/// <param name="ModelId">Its model in the catalogue.</param>
/// <param name="Name">What it was called; empty from the factory.</param>
/// <param name="IsFactory">Whether it is as it came out of its box: the factory's credentials, nothing to run.</param>
/// <param name="Status">How it stands.</param>
/// <param name="ClockMilliseconds">What its clock shows, ms since 1970 UTC.</param>
public sealed record DeviceIdentity(string Serial, string ModelId, string Name, bool IsFactory, SystemStatus Status, long ClockMilliseconds);

/// <summary>An account with its secret in the clear; never kept, never logged.</summary>
public sealed record DeviceAccount(string Name, string Secret)
{
    /// <summary>What every controller has in its box. It opens nothing but the first contact.</summary>
    public static DeviceAccount Factory { get; } = new("factory", "out-of-the-box");

    /// <inheritdoc/>
    public override string ToString() => Name;
}

/// <summary>The credentials that replace the factory's: accounts, and the passphrase that protects what is stored.</summary>
public sealed record DeviceSecrets(IReadOnlyList<DeviceAccount> Accounts, string Passphrase)
{
    /// <inheritdoc/>
    public override string ToString() => string.Join(", ", Accounts);
}

/// <summary>What a controller is told about itself.</summary>
public sealed record DeviceSettings(string Name, string Address, int PrefixLength, string? Router, bool StartsAfterPower);

/// <summary>What a clock showed before it was set, and shows now, ms since 1970 UTC.</summary>
public sealed record ClockAnswer(long Before, long After);

/// <summary>A part that is about to be transferred.</summary>
public sealed record PartOffer(string Key, PartLayer Layer, string Version, string Hash, int Bytes);

/// <summary>The order to change over to the parts that were transferred whole: who gave it, the name of the controller, which parts besides the application, and whether its program is to run afterwards.</summary>
public sealed record ActivateOrder(string Who, string Name, IReadOnlyList<string> Parts, bool StartsNow);

/// <summary>How a controller stands to whoever has signed in.</summary>
public sealed record DeviceReport(DeviceStanding Standing, IReadOnlyList<InstalledPart> Parts, DeviceSettings? Settings, int Version, string? Trouble);

/// <summary>
/// What can be asked of a controller at its own connection, encrypted, in this order: who it is; signing in; then all the rest.
/// Each throws <see cref="InvalidOperationException"/> with a sentence where the controller refuses.
/// </summary>
public interface IDeviceContact
{
    /// <summary>Whether somebody has signed in; who has not is not waited for long.</summary>
    bool IsSignedIn => true;

    /// <summary>Who it is.</summary>
    Task<DeviceIdentity> Identify();

    /// <summary>Signs in; five wrong secrets in a row close the door for a while.</summary>
    Task SignIn(DeviceAccount account);

    /// <summary>Gives new credentials. They hold once somebody has signed in with them and confirmed; until then the old ones do.</summary>
    Task Renew(DeviceSecrets secrets);

    /// <summary>Confirms, signed in with them, that new credentials hold from now on.</summary>
    Task Confirm();

    /// <summary>Tells it what it is.</summary>
    Task Configure(DeviceSettings settings);

    /// <summary>Sets its clock, ms since 1970 UTC.</summary>
    Task<ClockAnswer> SetClock(long milliseconds);

    /// <summary>How it stands.</summary>
    Task<DeviceReport> Report();

    /// <summary>Begins to transfer a part, or goes on with the same; answers the offset to send from.</summary>
    Task<int> Begin(PartOffer part);

    /// <summary>Gives the next piece of a part.</summary>
    Task Piece(string key, int offset, ReadOnlyMemory<byte> bytes);

    /// <summary>Changes over to what was transferred; answers the version. Until then, and if it fails, the old parts run.</summary>
    Task<int> Activate(ActivateOrder order);

    /// <summary>The application as it runs, for whoever knows the passphrase.</summary>
    Task<byte[]> ReadBack(string passphrase);
}
