using System.Text.Json.Serialization;
using LoftyWren.Core.Commissioning;

namespace LoftyWren.Protocols.Contact;

/// <summary>What is asked of a controller.</summary>
[JsonPolymorphic(TypeDiscriminatorPropertyName = "ask")]
[JsonDerivedType(typeof(AskIdentify), "identify")]
[JsonDerivedType(typeof(AskSignIn), "signIn")]
[JsonDerivedType(typeof(AskRenew), "renew")]
[JsonDerivedType(typeof(AskConfirm), "confirm")]
[JsonDerivedType(typeof(AskConfigure), "configure")]
[JsonDerivedType(typeof(AskSetClock), "setClock")]
[JsonDerivedType(typeof(AskReport), "report")]
[JsonDerivedType(typeof(AskBegin), "begin")]
[JsonDerivedType(typeof(AskPiece), "piece")]
[JsonDerivedType(typeof(AskActivate), "activate")]
[JsonDerivedType(typeof(AskReadBack), "readBack")]
public abstract record ContactAsk
{
    /// <summary>Lets a controller answer: the head of the answer as an object that can be written as JSON, and its body.</summary>
    internal abstract Task<(object? Said, byte[]? Body)> Of(IDeviceContact contact, byte[] body);
}

internal sealed record AskIdentify : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body) => (await contact.Identify(), null);
}

internal sealed record AskSignIn(DeviceAccount Account) : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body)
    {
        await contact.SignIn(Account);
        return default;
    }
}

internal sealed record AskRenew(DeviceSecrets Secrets) : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body)
    {
        await contact.Renew(Secrets);
        return default;
    }
}

internal sealed record AskConfirm : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body)
    {
        await contact.Confirm();
        return default;
    }
}

internal sealed record AskConfigure(DeviceSettings Settings) : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body)
    {
        await contact.Configure(Settings);
        return default;
    }
}

internal sealed record AskSetClock(long Milliseconds) : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body) => (await contact.SetClock(Milliseconds), null);
}

internal sealed record AskReport : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body) => (await contact.Report(), null);
}

internal sealed record AskBegin(PartOffer Part) : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body) => (await contact.Begin(Part), null);
}

internal sealed record AskPiece(string Key, int Offset) : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body)
    {
        await contact.Piece(Key, Offset, body);
        return default;
    }
}

internal sealed record AskActivate(ActivateOrder Order) : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body) => (await contact.Activate(Order), null);
}

internal sealed record AskReadBack(string Passphrase) : ContactAsk
{
    internal override async Task<(object?, byte[]?)> Of(IDeviceContact contact, byte[] body) => (null, await contact.ReadBack(Passphrase));
}

/// <summary>The answer of a controller: what it says, or why it refuses.</summary>
internal sealed record ContactAnswer(System.Text.Json.JsonElement? Said, string? Refused);
