using System.IO.Compression;
using System.Security.Cryptography;
using LoftyWren.Formats.Sheets;

namespace LoftyWren.Formats;

/// <summary>Zip files of our own forms: parts written so that the same content gives the same bytes, and read within limits.</summary>
internal static class Packing
{
    private static readonly DateTimeOffset Always = new(2000, 1, 1, 0, 0, 0, TimeSpan.Zero);

    /// <summary>SHA-256 in hexadecimal.</summary>
    public static string Hash(ReadOnlySpan<byte> bytes) => Convert.ToHexStringLower(SHA256.HashData(bytes));

    /// <summary>Adds a part; no clock goes into it.</summary>
    public static void Put(ZipArchive zip, string path, ReadOnlySpan<byte> body)
    {
        ZipArchiveEntry entry = zip.CreateEntry(path);
        entry.LastWriteTime = Always;
        using Stream stream = entry.Open();
        stream.Write(body);
    }

    /// <summary>Unpacks a part, whatever it says of its size; all parts together come to at most a limit.</summary>
    /// <exception cref="FileRefusedException">They would come to more.</exception>
    public static byte[] Unpack(ZipArchiveEntry entry, ref long total, long most)
    {
        using var body = new MemoryStream();
        Count(entry, ref total, most, body);
        return body.ToArray();
    }

    /// <summary>Unpacks a part into a stream, or, without one, only counts it.</summary>
    /// <exception cref="FileRefusedException">All parts together come to more than the limit.</exception>
    public static void Count(ZipArchiveEntry entry, ref long total, long most, Stream? into = null)
    {
        using Stream stream = entry.Open();
        var buffer = new byte[81_920];
        for (int read; (read = stream.Read(buffer)) > 0;)
        {
            total += read;
            if (total > most) throw new FileRefusedException($"The file unpacks to more than {most / 1_048_576} MB and is not read further.");
            into?.Write(buffer, 0, read);
        }
    }
}
