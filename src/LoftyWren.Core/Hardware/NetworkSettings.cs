using System.Globalization;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Hardware;

/// <summary>An IPv4 address as a number, most significant byte first (RFC 791).</summary>
public readonly record struct NetworkAddress(uint Value)
{
    /// <summary>The address that a text says in four decimal bytes, or null; 010 is not taken for 10, since some take it for 8.</summary>
    public static NetworkAddress? Parse(string? text)
    {
        string[] parts = text?.Split('.') ?? [];
        if (parts.Length != 4) return null;
        uint value = 0;
        foreach (string part in parts)
        {
            if (part.Length is < 1 or > 3 || (part.Length > 1 && part[0] == '0') || !byte.TryParse(part, NumberStyles.None, CultureInfo.InvariantCulture, out byte b)) return null;
            value = (value << 8) | b;
        }
        return new NetworkAddress(value);
    }

    /// <summary>The network it is in, by the length of its prefix in bits.</summary>
    public NetworkAddress Network(int prefix) => new(Value & Mask(prefix));

    /// <summary>Whether it can be one machine's: not the network itself, not the address of all, and none that is never one (RFC 1122, 3.2.1.3).</summary>
    public string? NotAHost(int prefix)
    {
        if (Value >> 24 is 0 or 127 || Value >> 28 >= 14) return $"{this} is no address that a controller can have";
        if (prefix >= 31) return null;
        if ((Value & ~Mask(prefix)) == 0) return $"{this} is the network itself";
        return (Value | Mask(prefix)) == uint.MaxValue ? $"{this} is the address of all in its network" : null;
    }

    private static uint Mask(int prefix) => prefix <= 0 ? 0 : uint.MaxValue << (32 - prefix);

    /// <inheritdoc/>
    public override string ToString() => $"{Value >> 24}.{(Value >> 16) & 255}.{(Value >> 8) & 255}.{Value & 255}";
}

/// <summary>The network settings of controllers: what stands, and what is proposed where nothing was decided.</summary>
public static class NetworkSettings
{
    /// <summary>Where nobody has an address yet, the first is this.</summary>
    public const string First = "10.20.1.11";

    internal static string Key(string address) => $"address|{address}";

    /// <summary>What cannot stand of one controller's settings: the field, and a sentence.</summary>
    public static IEnumerable<(string Field, string Sentence)> Wrong(string? address, int prefix, string? router)
    {
        if (prefix is < 8 or > 30) yield return ("prefixLength", $"A network of controllers has a prefix of 8 to 30 bits, not {prefix}.");
        if (address is not null)
        {
            if (NetworkAddress.Parse(address) is not { } own) yield return ("address", $"‘{address}’ is no address: four numbers from 0 to 255 with dots between, such as {First}.");
            else if (own.NotAHost(prefix) is { } why) yield return ("address", $"{why}. Choose another.");
        }
        if (router is not null && NetworkAddress.Parse(router) is null) yield return ("router", $"‘{router}’ is no address: four numbers from 0 to 255 with dots between.");
    }

    /// <summary>Why a router is no use, or null: it must be another machine of the same network.</summary>
    public static string? RouterTrouble(string? address, int prefix, string? router)
    {
        if (NetworkAddress.Parse(address) is not { } own || NetworkAddress.Parse(router) is not { } way) return null;
        if (own == way) return $"the router {way} is the controller itself";
        return own.Network(prefix) == way.Network(prefix) ? null : $"the router {way} is not in the network {own.Network(prefix)}/{prefix}, so the controller cannot reach it";
    }

    /// <summary>The next free address beside the highest that a controller of the project has, with its prefix and router; null where the network is full.</summary>
    public static (string Address, int Prefix, string? Router)? NextFree(Project project)
    {
        (NetworkAddress Address, Controller Controller)? last = null;
        foreach (Controller controller in project.All<Controller>())
        {
            if (NetworkAddress.Parse(controller.Address) is { } at && (last is null || at.Value > last.Value.Address.Value)) last = (at, controller);
        }
        if (last is not { } highest) return (First, 24, null);
        (uint network, int prefix) = (highest.Address.Network(highest.Controller.PrefixLength).Value, highest.Controller.PrefixLength);
        for (uint next = highest.Address.Value + 1; new NetworkAddress(next).Network(prefix).Value == network; next++) if (IsFree(next)) return (new NetworkAddress(next).ToString(), prefix, highest.Controller.Router);
        for (uint next = network + 1; next < highest.Address.Value; next++) if (IsFree(next)) return (new NetworkAddress(next).ToString(), prefix, highest.Controller.Router);
        return null;

        bool IsFree(uint value) => new NetworkAddress(value) is var a && a.NotAHost(prefix) is null && a.ToString() != highest.Controller.Router && project.Holder(Key(a.ToString())) is null;
    }
}
