using System.IO.Compression;
using System.Text;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Formats.Projects;
using LoftyWren.Formats.Sheets;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Formats.Tests.Projects;

public class ProjectFileTests
{
    private static readonly Project House = Core.Tests.KilnRoom.Project();

    private static byte[] Change(byte[] file, string part, Func<string, string?> how)
    {
        using var from = new ZipArchive(new MemoryStream(file));
        using var bytes = new MemoryStream();
        using (var to = new ZipArchive(bytes, ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (ZipArchiveEntry entry in from.Entries)
            {
                using var reader = new StreamReader(entry.Open());
                string? text = entry.FullName == part ? how(reader.ReadToEnd()) : reader.ReadToEnd();
                if (text is null) continue;
                using var writer = new StreamWriter(to.CreateEntry(entry.FullName).Open(), new UTF8Encoding(false));
                writer.Write(text);
            }
        }
        return bytes.ToArray();
    }

    [Fact]
    public void A_project_reads_back_the_same_and_writes_the_same_bytes()
    {
        byte[] file = ProjectFile.Write(House);
        Assert.Equal(file, ProjectFile.Write(House));
        ProjectFile.Content content = ProjectFile.Read(file);
        Assert.Equal(("Saltmarsh Pottery", 1), (content.Name, (int)content.Revision));
        Assert.Empty(content.Problems);
        var (project, left) = ProjectFile.Salvage(content.Records);
        Assert.Empty(left);
        Assert.Empty(Differences.Between(House, project));
    }

    [Fact]
    public void A_kind_that_only_tests_know_has_a_part_of_its_own()
    {
        var hatch = new Core.Tests.Records.Hatch { Id = new("h"), Name = "Hatch", OwnerId = Core.Tests.KilnRoom.Room, Address = 3, Opens = [Core.Tests.KilnRoom.Temperature] };
        byte[] file = ProjectFile.Write(Core.Tests.KilnRoom.Accept(Core.Tests.KilnRoom.Project(), hatch));
        using var zip = new ZipArchive(new MemoryStream(file));
        Assert.NotNull(zip.GetEntry("records/hatch.jsonl"));
        ProjectFile.Content content = ProjectFile.Read(file);
        Assert.Empty(content.Problems);
        Assert.True(RecordJson.Same(hatch, content.Records.Single(r => r.Id == hatch.Id)));
    }

    [Fact]
    public void A_line_that_cannot_be_read_is_named_and_the_rest_is_saved()
    {
        byte[] damaged = Change(ProjectFile.Write(House), "records/point.jsonl", text => text.Replace("\"kind\":\"binary\"", "\"kind\":\"bin", StringComparison.Ordinal));
        ProjectFile.Content content = ProjectFile.Read(damaged);
        Assert.Contains(content.Problems, p => p.StartsWith("records/point.jsonl was changed", StringComparison.Ordinal));
        Assert.Contains(content.Problems, p => p.StartsWith("records/point.jsonl line 1: ", StringComparison.Ordinal));
        Assert.Contains("records/point.jsonl holds 2 records that can be read, not 3.", content.Problems);
        var (project, left) = ProjectFile.Salvage(content.Records);
        Assert.Null(project.Find(FanCommand));
        Assert.NotNull(project.Find(Temperature));
        Assert.Contains(left, l => l.Contains("RO1", StringComparison.Ordinal));
    }

    [Fact]
    public void A_missing_part_and_a_missing_manifest_are_told()
    {
        Assert.Contains("records/schedule.jsonl is missing; it held 1 records.", ProjectFile.Read(Change(ProjectFile.Write(House), "records/schedule.jsonl", _ => null)).Problems);
        Assert.Contains("manifest.json is missing", ProjectFile.Read(Change(ProjectFile.Write(House), "manifest.json", _ => null)).Problems[0], StringComparison.Ordinal);
    }

    /// <summary>Whatever byte is hit: every record that comes out is one that went in, or something is said.</summary>
    [Fact]
    public void No_damage_goes_unsaid()
    {
        byte[] file = ProjectFile.Write(House);
        var random = new Random(7);
        for (int i = 0; i < 2000; i++)
        {
            byte[] damaged = [.. file];
            damaged[random.Next(damaged.Length)] ^= (byte)random.Next(1, 256);
            try
            {
                ProjectFile.Content content = ProjectFile.Read(damaged);
                bool whole = content.Records.Count == House.Count && content.Records.All(r => RecordJson.Same(r, House.Find(r.Id)));
                Assert.True(whole || content.Problems.Count > 0, $"Byte damage {i} went unsaid.");
            }
            catch (FileRefusedException)
            {
                // Refused in words: said.
            }
        }
    }

    [Fact]
    public void What_is_no_project_is_refused()
    {
        Assert.Contains("not a zip", Assert.Throws<FileRefusedException>(() => ProjectFile.Read([1, 2, 3, 4])).Message, StringComparison.Ordinal);
        Assert.Contains("no manifest and no records", Assert.Throws<FileRefusedException>(() => ProjectFile.Read(Change(SheetWriter.Xlsx(new Core.PointLists.Sheet("x", [["a"]])), "none", t => t))).Message, StringComparison.Ordinal);
    }

    private static byte[] Zip(params (string Path, string Text)[] parts)
    {
        using var bytes = new MemoryStream();
        using (var zip = new System.IO.Compression.ZipArchive(bytes, System.IO.Compression.ZipArchiveMode.Create, leaveOpen: true))
        {
            foreach (var (path, text) in parts)
            {
                using Stream stream = zip.CreateEntry(path, System.IO.Compression.CompressionLevel.SmallestSize).Open();
                stream.Write(System.Text.Encoding.UTF8.GetBytes(text));
            }
        }
        return bytes.ToArray();
    }

    private const string Manifest = "{\"format\":\"lofty-wren-project\",\"version\":1,\"project\":\"x\",\"revision\":1,\"parts\":[]}";

    // A few kilobytes that unpack to millions of lines: reading stops at its limits and keeps nothing of them.
    [Theory]
    [InlineData("\n", "lines")]
    [InlineData("x\n", "more than 1000 of its lines cannot be read")]
    public void A_small_file_of_millions_of_lines_is_left_at_its_limits(string line, string why)
    {
        byte[] file = Zip(("manifest.json", Manifest), ("records/place.jsonl", string.Concat(Enumerable.Repeat(line, 4_000_000))));
        Assert.InRange(file.Length, 1, 60_000);
        long before = GC.GetAllocatedBytesForCurrentThread();
        ProjectFile.Content content = ProjectFile.Read(file);
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 300L * 1024 * 1024);
        Assert.Contains(content.Problems, p => p.Contains(why, StringComparison.Ordinal));
        Assert.InRange(content.Problems.Count, 1, 1010);
    }

    // Once 90 s for 6000 points that each name the next one: each removed by a round of its own.
    [Fact]
    public void A_long_chain_of_references_into_nothing_costs_its_length()
    {
        string chain = string.Concat(Enumerable.Range(0, 6000).Select(i => $"{{\"type\":\"point\",\"id\":\"p{i}\",\"name\":\"p{i}\",\"kind\":\"analog\",\"role\":\"sensor\",\"ownerId\":\"site\",\"setpointId\":\"p{i + 1}\"}}\n"));
        string owners = string.Concat(Enumerable.Range(0, 6000).Select(i => $"{{\"type\":\"place\",\"id\":\"r{i}\",\"name\":\"r{i}\",\"kind\":\"room\",\"in\":\"r{i + 1}\"}}\n"));
        byte[] file = Zip(("manifest.json", Manifest), ("records/point.jsonl", chain), ("records/place.jsonl", owners + "{\"type\":\"place\",\"id\":\"site\",\"name\":\"s\",\"kind\":\"site\",\"timeZone\":\"UTC\"}\n"));
        long before = GC.GetAllocatedBytesForCurrentThread();
        var (project, left) = ProjectFile.Salvage(ProjectFile.Read(file).Records);
        // The last point loses its setpoint and stays; the rooms hang in nothing, all of them.
        Assert.Equal(6001, project.Count);
        Assert.Equal(6001, left.Count);
        Assert.Contains(left, l => l.StartsWith("point ‘p5999’ is kept without p6000", StringComparison.Ordinal));
        Assert.InRange(GC.GetAllocatedBytesForCurrentThread() - before, 0, 600L * 1024 * 1024);
    }

    [Fact]
    public void Reading_stops_with_whoever_asked()
    {
        byte[] file = Zip(("manifest.json", Manifest), ("records/place.jsonl", string.Concat(Enumerable.Repeat("\n", 100_000))));
        Assert.Throws<OperationCanceledException>(() => ProjectFile.Read(file, new CancellationToken(canceled: true)));
    }
}
