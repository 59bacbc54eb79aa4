using LoftyWren.Core.PointLists;
using LoftyWren.Core.Projects;
using LoftyWren.Formats.Projects;
using LoftyWren.Formats.Sheets;

namespace LoftyWren.Formats.Tests.Projects;

public class ProjectFolderTests
{
    private static string Demo()
    {
        string folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "LoftyWren.slnx"))) folder = Path.GetDirectoryName(folder)!;
        return Path.Combine(folder, "demo");
    }

    [Fact]
    public void The_demo_comes_from_its_list_and_its_list_is_what_it_exports()
    {
        ChangeOutcome outcome = Changes.Apply(Project.Empty, new ChangeSet(ProjectFolder.Read(Demo()), "engineer", 0));
        Assert.True(outcome.Accepted, string.Join(" ", outcome.Refusals.Select(r => r.Sentence)));
        byte[] exported = SheetWriter.Csv(ListExport.Of(outcome.After!, outcome.After!.Site!.Id, whole: true));
        Assert.Equal(File.ReadAllBytes(Path.Combine(Demo(), "lists", "places-and-points.csv")), exported);
    }

    [Fact]
    public void A_wrong_cell_or_a_wrong_record_is_named_by_file()
    {
        string folder = Directory.CreateTempSubdirectory("lofty-wren-folder-").FullName;
        Directory.CreateDirectory(Path.Combine(folder, "project"));
        Directory.CreateDirectory(Path.Combine(folder, "lists"));
        File.Copy(Path.Combine(Demo(), "project", "0-site.json"), Path.Combine(folder, "project", "0-site.json"));
        File.WriteAllText(Path.Combine(folder, "lists", "a.csv"), "Building,Floor,Room,Area\nBarn,Loft,Study,wide\n");
        Assert.Contains("a.csv, row 2D: ‘wide’ is not a number", Assert.Throws<FileRefusedException>(() => ProjectFolder.Read(folder)).Message, StringComparison.Ordinal);
        File.WriteAllText(Path.Combine(folder, "lists", "a.csv"), "Building,Floor,Room,Area\nBarn,Loft,Study,20\n");
        Assert.Equal(4, ProjectFolder.Read(folder).Count);
        File.WriteAllText(Path.Combine(folder, "project", "1-more.json"), "[{\"type\":\"room\"}]");
        Assert.Contains("1-more.json", Assert.Throws<FileRefusedException>(() => ProjectFolder.Read(folder)).Message, StringComparison.Ordinal);
        Directory.Delete(folder, recursive: true);
    }
}
