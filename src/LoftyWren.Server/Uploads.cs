using LoftyWren.Formats.Sheets;

namespace LoftyWren.Server;

/// <summary>Files that people send: the body as it is, never more than the limit, no name taken from them.</summary>
internal static class Uploads
{
    /// <summary>The whole body.</summary>
    /// <exception cref="FileRefusedException">It is larger than <see cref="SheetLimits.Bytes"/>.</exception>
    public static async Task<byte[]> Read(HttpContext http)
    {
        if (http.Request.ContentLength > SheetLimits.Bytes) throw TooLarge();
        using var body = new MemoryStream();
        var buffer = new byte[81_920];
        for (int read; (read = await http.Request.Body.ReadAsync(buffer, http.RequestAborted)) > 0;)
        {
            body.Write(buffer, 0, read);
            if (body.Length > SheetLimits.Bytes) throw TooLarge();
        }
        return body.ToArray();
    }

    private static FileRefusedException TooLarge() => new($"The file is larger than {SheetLimits.Bytes / 1_048_576} MB and was not read. Split it into several.");
}
