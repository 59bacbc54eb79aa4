using System.IO.Compression;
using System.Text;
using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using LoftyWren.Core.PointLists;
using LoftyWren.Formats.Sheets;

namespace LoftyWren.Formats.Tests.Sheets;

public class SheetTests
{
    private static readonly Gen<string> Cell = Gen.OneOf(
        Gen.Elements("", "Kiln room", "21.5", "-20", "=2+2", "+44", "@x", "-", "'", "''=1", "'=x", "a \"quoted\" b", "a,b;c", "two\nlines", "°C · %RH", "0012", "1e5", "TRUE"),
        ArbMap.Default.GeneratorFor<string>().Where(s => s is not null).Select(s => new string([.. s.Where(c => c is >= ' ' and < '\ud800')]).Trim()));

    private static readonly Arbitrary<string[][]> Grids = Gen.Choose(1, 6).SelectMany(columns => Cell.ArrayOf(columns).ArrayOf()).Select(rows => rows.Where(r => r.Length > 0).ToArray()).Where(rows => rows.Length > 0 && rows[^1].Any(c => c.Length > 0)).ToArbitrary();

    private static string[][] Cells(Sheet sheet, int columns) => [.. sheet.Rows.Select(r => Enumerable.Range(0, columns).Select(c => c < r.Length ? r[c] : "").ToArray())];

    /// <summary>More than one column, so that the delimiter can be told.</summary>
    [Property(MaxTest = 200)]
    public Property Csv_reads_back_the_same_and_writes_the_same_bytes() => Prop.ForAll(Grids, rows =>
    {
        string[][] wide = [["h1", "h2", "h3"], .. rows.Select(r => (string[])["x", "y", .. r])];
        byte[] bytes = SheetWriter.Csv(new Sheet("s", wide));
        Sheet back = SheetReader.Read(bytes).Sheets[0];
        return Cells(back, 8).Zip(Cells(new Sheet("s", wide), 8)).All(p => p.First.SequenceEqual(p.Second)) && SheetWriter.Csv(new Sheet("s", wide)).SequenceEqual(bytes);
    });

    [Property(MaxTest = 60)]
    public Property Xlsx_reads_back_the_same_cells() => Prop.ForAll(Grids, rows =>
    {
        Sheet back = SheetReader.Read(SheetWriter.Xlsx(new Sheet("Points", rows))).Sheets[0];
        return Cells(back, 6).Zip(Cells(new Sheet("Points", rows), 6)).All(p => p.First.SequenceEqual(p.Second));
    });

    [Theory]
    [InlineData("a;b;c\n1;2;3\n", 3)]
    [InlineData("a\tb\n1\t2\n", 2)]
    [InlineData("a,b\r\n\"1,5\",2\r\n", 2)]
    public void The_delimiter_is_told_from_the_text(string text, int columns) => Assert.Equal(columns, SheetReader.Read(Encoding.UTF8.GetBytes(text)).Sheets[0].Rows[1].Length);

    [Fact]
    public void Encodings_are_told_apart()
    {
        Assert.Equal("°C", SheetReader.Read([.. Encoding.Unicode.GetPreamble(), .. Encoding.Unicode.GetBytes("unit,x\n°C,1")]).Sheets[0].Rows[1][0]);
        Workbook latin = SheetReader.Read(Encoding.Latin1.GetBytes("unit,x\n°C,1"));
        Assert.Equal("°C", latin.Sheets[0].Rows[1][0]);
        Assert.Contains("not UTF-8", Assert.Single(latin.Notes), StringComparison.Ordinal);
    }

    private static string Refused(byte[] bytes) => Assert.Throws<FileRefusedException>(() => SheetReader.Read(bytes)).Message;

    [Fact]
    public void What_cannot_be_read_is_refused_in_words()
    {
        Assert.Contains("is empty", Refused([]), StringComparison.Ordinal);
        Assert.Contains("old binary form", Refused([0xD0, 0xCF, 0x11, 0xE0, 1, 2]), StringComparison.Ordinal);
        Assert.Contains("never closed", Refused("name,unit\n\"Kiln room,°C\nx,y\n"u8.ToArray()), StringComparison.Ordinal);
        Assert.Contains("neither a text nor a spreadsheet", Refused([1, 0, 2, 0, 0, 0, 65, 66]), StringComparison.Ordinal);
        Assert.Contains("no spreadsheet that can be read", Refused(Zip(("hello.txt", "hello"))), StringComparison.Ordinal);
        Assert.Contains("no spreadsheet that can be read", Refused([(byte)'P', (byte)'K', 3, 4, 9, 9, 9]), StringComparison.Ordinal);
        Assert.Contains("at most 10 MB", Refused(new byte[SheetLimits.Bytes + 1]), StringComparison.Ordinal);
    }

    [Fact]
    public void A_small_file_that_unpacks_to_a_great_one_is_refused_before_it_is_read()
    {
        byte[] bomb = Zip(("xl/workbook.xml", new string(' ', 120_000_000)));
        Assert.True(bomb.Length < 500_000);
        // Of this thread alone: other tests run beside it.
        long before = GC.GetAllocatedBytesForCurrentThread();
        Assert.Contains("unpacks to more than 96 MB", Refused(bomb), StringComparison.Ordinal);
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 5_000_000);
    }

    [Fact]
    public void Rows_columns_and_cells_are_bounded()
    {
        Assert.Contains("more than 100,000 rows", Refused(Encoding.UTF8.GetBytes("a,b\n" + string.Concat(Enumerable.Repeat("1,2\n", 100_001)))), StringComparison.Ordinal);
        Assert.Contains("at most 200", Refused(Encoding.UTF8.GetBytes(string.Join(',', Enumerable.Range(0, 300)))), StringComparison.Ordinal);
        Assert.Contains("Cell B1 holds 5000 characters", Refused(Encoding.UTF8.GetBytes("a," + new string('x', 5000))), StringComparison.Ordinal);
        Assert.Contains("at most 2000", Refused(Zip([.. Enumerable.Range(0, 2100).Select(i => ($"f{i}", "x"))])), StringComparison.Ordinal);
    }

    /// <summary>Whatever is done to a good file, there is an answer or a refusal, never another error.</summary>
    [Property(MaxTest = 300)]
    public bool Damaged_files_are_answered_or_refused(int seed)
    {
        var random = new Random(seed);
        byte[] bytes = random.Next(2) == 0 ? SheetWriter.Xlsx(new Sheet("Points", [["a", "b"], ["1", "x"]])) : SheetWriter.Csv(new Sheet("s", [["a", "b"], ["1", "x\"y"]]));
        for (int i = 0; i < random.Next(1, 12); i++) bytes[random.Next(bytes.Length)] = (byte)random.Next(256);
        if (random.Next(3) == 0) bytes = bytes[..random.Next(bytes.Length)];
        try
        {
            return SheetReader.Read(bytes).Sheets.All(s => s.Rows.Count <= SheetLimits.Rows);
        }
        catch (FileRefusedException e)
        {
            return e.Message.Length > 10;
        }
    }

    [Fact]
    public void Nothing_is_written_that_a_spreadsheet_program_takes_for_a_formula()
    {
        string text = Encoding.UTF8.GetString(SheetWriter.Csv(new Sheet("s", [["=cmd|x", "+1+1", "-20", "@a"]])));
        Assert.Equal("\ufeff'=cmd|x,'+1+1,-20,'@a\r\n", text);
    }

    private static byte[] Zip(params (string Name, string Text)[] parts)
    {
        using var bytes = new MemoryStream();
        using (var zip = new ZipArchive(bytes, ZipArchiveMode.Create))
        {
            foreach (var (name, text) in parts)
            {
                using var writer = new StreamWriter(zip.CreateEntry(name, CompressionLevel.Optimal).Open());
                writer.Write(text);
            }
        }
        return bytes.ToArray();
    }

    // Sixty thousand quotation marks inside one row: once a copy of the row for each of them.
    [Fact]
    public void A_row_of_stray_quotation_marks_costs_its_length()
    {
        byte[] text = System.Text.Encoding.UTF8.GetBytes("name\n{" + string.Concat(Enumerable.Repeat("\"x\":1,", 60_000)) + "\"y\":1}\n");
        long before = GC.GetAllocatedBytesForCurrentThread();
        Assert.Contains("Row 2 has more than 50 quotation marks inside cells", Assert.Throws<FileRefusedException>(() => SheetReader.Read(text)).Message);
        Assert.Contains("Row 1 is longer than", Assert.Throws<FileRefusedException>(() => SheetReader.Read(System.Text.Encoding.UTF8.GetBytes(new string(',', 900_000)))).Message);
        Assert.Equal("5\" by 6\" pipe", SheetReader.Read("size,what\n5\" by 6\" pipe,6\n"u8.ToArray()).Sheets[0].Rows[1][0]);
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 100L * 1024 * 1024);
        Assert.Throws<OperationCanceledException>(() => SheetReader.Read("a,b\n1,2\n"u8.ToArray(), new CancellationToken(canceled: true)));
    }
}
