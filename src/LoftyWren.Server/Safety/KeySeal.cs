using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Xml.Linq;

namespace LoftyWren.Server.Safety;

/// <summary>
/// What the session keys in the data folder are encrypted with: a certificate of its own, kept with the user who runs the
/// server and not in the folder, so that a copy of the data folder holds no usable key.
/// </summary>
public static class KeySeal
{
    /// <summary>The certificate, made the first time.</summary>
    public static X509Certificate2 Certificate(string dataFolder)
    {
        string home = Environment.GetFolderPath(Environment.SpecialFolder.ApplicationData, Environment.SpecialFolderOption.DoNotVerify);
        foreach (string folder in new[] { home.Length > 0 ? Path.Combine(home, "lofty-wren") : "", Path.Combine(dataFolder, "keys") })
        {
            if (folder.Length == 0) continue;
            try
            {
                Directory.CreateDirectory(folder);
                string path = Path.Combine(folder, "seal.pfx");
                if (File.Exists(path))
                {
                    try
                    {
                        return X509CertificateLoader.LoadPkcs12FromFile(path, null);
                    }
                    catch (CryptographicException)
                    {
                        // A seal that cannot be read opens nothing: another is made, and everybody signs in again.
                        File.Move(path, path + ".damaged", overwrite: true);
                    }
                }
                using var rsa = RSA.Create(2048);
                var request = new CertificateRequest("CN=Lofty Wren", rsa, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
                using X509Certificate2 made = request.CreateSelfSigned(DateTimeOffset.UnixEpoch, DateTimeOffset.MaxValue);
                var mine = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
                if (!OperatingSystem.IsWindows()) mine.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
                using (var file = new FileStream(path, mine)) file.Write(made.Export(X509ContentType.Pfx));
                return X509CertificateLoader.LoadPkcs12FromFile(path, null);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException)
            {
                // The next place may do.
            }
        }
        throw new Storage.StorageException($"No place for the seal of the session keys: neither the settings of this user nor {dataFolder} can be written.");
    }

    /// <summary>Moves keys aside that are no longer readable, so that they stop nobody; answers a sentence each.</summary>
    public static IReadOnlyList<string> MoveDamagedAside(string keysFolder)
    {
        var said = new List<string>();
        if (!Directory.Exists(keysFolder)) return said;
        foreach (string path in Directory.GetFiles(keysFolder, "key-*.xml"))
        {
            try
            {
                if (XDocument.Load(path).Root?.Name.LocalName == "key") continue;
            }
            catch (System.Xml.XmlException)
            {
                // Told below, like one that holds something else.
            }
            File.Move(path, path + ".damaged", overwrite: true);
            said.Add($"The session key {path} was damaged and moved aside; those whose session it held sign in again.");
        }
        return said;
    }
}
