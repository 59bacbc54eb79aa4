using System.Security.Cryptography;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Images;

namespace LoftyWren.VirtualSite.Devices;

/// <summary>A loader or software part on its way into the second slot of a device: what was promised, how much is there, and what it proves to be.</summary>
internal sealed class PartStaging(PartOffer offer)
{
    private const int HeadBytes = 1024;
    private readonly IncrementalHash _hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
    private readonly byte[] _head = new byte[Math.Min(HeadBytes, offer.Bytes)];

    public PartOffer Offer { get; } = offer;

    public int Have { get; private set; }

    public void Take(int offset, ReadOnlySpan<byte> piece)
    {
        if (offset != Have || offset + piece.Length > Offer.Bytes) throw new InvalidOperationException("This piece does not follow on what the device has.");
        if (offset < _head.Length) piece[..Math.Min(piece.Length, _head.Length - offset)].CopyTo(_head.AsSpan(offset));
        _hash.AppendData(piece);
        Have += piece.Length;
    }

    /// <summary>The part, once it is whole and is what was promised.</summary>
    /// <exception cref="InvalidOperationException">It is not.</exception>
    public (InstalledPart Part, FirmwareHead? Head) Whole()
    {
        if (Have < Offer.Bytes) throw new InvalidOperationException($"The part ‘{Offer.Key}’ is not whole: {Have} of {Offer.Bytes} bytes are here. Send again; it goes on from there.");
        if (Convert.ToHexStringLower(_hash.GetCurrentHash()) != Offer.Hash) throw new InvalidOperationException($"The part ‘{Offer.Key}’ was damaged on the way: its hash differs. What it had goes on running; send again.");
        return (new InstalledPart(Offer.Key, Offer.Layer, Offer.Version, Offer.Hash, Offer.Bytes), Firmware.HeadOf(_head));
    }
}
