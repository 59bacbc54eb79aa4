using LoftyWren.Core.Bus.Topology;

namespace LoftyWren.Core.Bus.Security;

/// <summary>
/// What the sticker of a device says: its label and, where it can be secured, its certificate. The square code on it holds the
/// same as one text: <c>BUS1:</c>, the fourteen digits of the label and, after another colon, the certificate without hyphens.
/// </summary>
public sealed record BusSticker(string Label, BusCertificate? Certificate)
{
    private const string Begins = "BUS1:";

    /// <summary>As the square code holds it.</summary>
    public string Code => $"{Begins}{BusSerial.Plain(Label)}{(Certificate is null ? "" : $":{Certificate.ToString()!.Replace("-", "", StringComparison.Ordinal)}")}";

    /// <summary>Reads what a square code holds, or a label or a certificate as people type it; or says what is wrong.</summary>
    public static (BusSticker? Sticker, string? Trouble) Read(string text)
    {
        text = text.Trim();
        string label = text;
        string? certificate = null;
        if (text.StartsWith(Begins, StringComparison.OrdinalIgnoreCase))
        {
            string[] parts = text[Begins.Length..].Split(':');
            if (parts.Length > 2) return (null, "The square code holds more than a label and a certificate. Scan it again, or type the label.");
            (label, certificate) = (parts[0], parts.Length == 2 ? parts[1] : null);
        }
        // A certificate has so many more letters than a label that it is known by that.
        else if (BusSerial.Plain(text).Length > 20) (label, certificate) = ("", text);
        BusCertificate? read = null;
        if (certificate is not null)
        {
            (read, string? trouble) = BusCertificate.Read(certificate);
            if (read is null) return (null, trouble);
            if (label.Length == 0) label = read.Serial;
        }
        if (BusSerial.Trouble(label) is { } wrong) return (null, wrong);
        label = BusSerial.Label(BusSerial.Octets(label));
        return read is not null && read.Serial != label ? (null, $"The certificate is that of the device with the label {read.Serial}, not {label}.") : (new BusSticker(label, read), null);
    }
}
