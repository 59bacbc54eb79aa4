using System.IO.Compression;
using System.Runtime.InteropServices;
using System.Security.Cryptography;
using System.Text;
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

    /// <summary>A count of unpacked bytes, if it is within a limit.</summary>
    /// <exception cref="FileRefusedException">It is not.</exception>
    public static long Within(long total, long most) => total <= most ? total : throw new FileRefusedException($"The file unpacks to more than {most / 1_048_576} MB and is not read further.");

    /// <summary>The lines of a part as it unpacks, numbered from 1; what is unpacked is counted, and its hash told when all of it has been read.</summary>
    /// <exception cref="InvalidDataException">A line is longer than may be, or the part is damaged.</exception>
    public static IEnumerable<(int Number, string Text)> Lines(ZipArchiveEntry entry, Action<int> count, int mostLine, Action<string> whole)
    {
        using Stream stream = entry.Open();
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var buffer = new byte[81_920];
        var line = new List<byte>();
        int number = 0;
        for (int read; (read = stream.Read(buffer)) > 0;)
        {
            count(read);
            hash.AppendData(buffer, 0, read);
            for (int from = 0; from < read;)
            {
                int end = Array.IndexOf(buffer, (byte)'\n', from, read - from), until = end < 0 ? read : end;
                if (line.Count + until - from > mostLine) throw new InvalidDataException($"line {number + 1} is longer than {mostLine / 1_048_576} MB");
                line.AddRange(buffer.AsSpan(from, until - from));
                from = until + 1;
                if (end < 0) break;
                yield return (++number, Encoding.UTF8.GetString(CollectionsMarshal.AsSpan(line)));
                line.Clear();
            }
        }
        if (line.Count > 0) yield return (++number, Encoding.UTF8.GetString(CollectionsMarshal.AsSpan(line)));
        whole(Convert.ToHexStringLower(hash.GetHashAndReset()));
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
