using System.Text;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Templates;
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

    private static Project Load(string folder)
    {
        ChangeOutcome outcome = Changes.Apply(Project.Empty, new ChangeSet(ProjectFolder.Read(folder), "engineer", 0));
        Assert.True(outcome.Accepted, string.Join(" ", outcome.Refusals.Select(r => r.Sentence)));
        return outcome.After!;
    }

    [Fact]
    public void The_demo_comes_from_its_list_and_its_templates_and_its_list_is_what_it_exports()
    {
        Project project = Load(Demo());
        string[] exported = Encoding.UTF8.GetString(SheetWriter.Csv(ListExport.Of(project, project.Site!.Id, whole: true))).Split('\n');
        string[] list = Encoding.UTF8.GetString(File.ReadAllBytes(Path.Combine(Demo(), "project", "01-places-and-points.csv"))).Split('\n');
        var placed = project.All<Equipment>().Where(e => e.Placed is not null).ToList();
        // Fan-coils, radiators and lights come from their templates, each with its points; the rest comes from the list.
        var ofTemplates = placed.Select(e => e.Id.Value).Concat(placed.SelectMany(e => project.All<Point>().Where(p => p.OwnerId == e.Id || p.OwnerId == e.PlaceId).Select(p => p.Id.Value).Where(p => p.StartsWith($"{e.Id}-", StringComparison.Ordinal) && Templated[e.Kind].Contains(p[(e.Id.Value.Length + 1)..])))).ToHashSet();
        Assert.Equal((12, 12, 24), (Count("fan-coil"), Count("radiator"), Count("lighting")));
        Assert.Equal(list, exported.Where(l => !ofTemplates.Contains(l.TrimEnd('\r').Split(',')[^1])));
        // Rows: a fan-coil with its five points, a radiator with three, lights with two.
        Assert.Equal((12 * 6) + (12 * 4) + (24 * 3), exported.Length - list.Length);

        int Count(string kind) => placed.Count(e => e.Kind == kind);
    }

    private static readonly Dictionary<string, string[]> Templated = new() { ["fan-coil"] = ["temp", "valve", "sp", "run", "window"], ["radiator"] = ["temp", "valve", "sp"], ["lighting"] = ["lights", "presence"] };

    [Fact]
    public void A_placed_fan_coil_of_the_demo_is_as_its_template_but_for_nothing()
    {
        Project project = Load(Demo());
        var templates = ProjectFolder.Templates(Demo()).ToDictionary(t => t.Id);
        Assert.Equal(["pottery-fan-coil", "pottery-lights", "pottery-radiator"], templates.Keys.Order());
        foreach (Equipment equipment in project.All<Equipment>().Where(e => e.Placed is not null)) Assert.Empty(Placing.Compare(project, equipment, templates[equipment.Placed!.TemplateId], templates[equipment.Placed.TemplateId]));
        Equipment drying = project.Find<Equipment>(new("dry"))!;
        Assert.Equal(("Fan-coil 5", "24", "kh-c1", "hours"), (drying.Name, drying.Placed!.Values["setpoint"], project.Find<Sequence>(new("dry-seq"))!.ControllerId!.Value.Value, ((ScheduleSource)project.Find<Sequence>(new("dry-seq"))!.Blocks[0].Inputs["g"]).ScheduleId.Value));
        Assert.Equal((24.0, "dry-sp"), (project.Find<Point>(new("dry-sp"))!.Fallback!.Value, project.Find<Point>(new("dry-temp"))!.SetpointId!.Value.Value));
    }

    [Fact]
    public void A_wrong_cell_or_a_wrong_record_is_named_by_file()
    {
        string folder = Directory.CreateTempSubdirectory("lofty-wren-folder-").FullName;
        Directory.CreateDirectory(Path.Combine(folder, "project"));
        File.Copy(Path.Combine(Demo(), "project", "00-site.json"), Path.Combine(folder, "project", "00-site.json"));
        File.WriteAllText(Path.Combine(folder, "project", "01-a.csv"), "Building,Floor,Room,Area\nBarn,Loft,Study,wide\n");
        Assert.Contains("01-a.csv, row 2D: ‘wide’ is not a number", Assert.Throws<FileRefusedException>(() => ProjectFolder.Read(folder)).Message, StringComparison.Ordinal);
        File.WriteAllText(Path.Combine(folder, "project", "01-a.csv"), "Building,Floor,Room,Area\nBarn,Loft,Study,20\n");
        Assert.Equal(4, ProjectFolder.Read(folder).Count);
        File.WriteAllText(Path.Combine(folder, "project", "02-more.json"), "[{\"type\":\"room\"}]");
        Assert.Contains("02-more.json", Assert.Throws<FileRefusedException>(() => ProjectFolder.Read(folder)).Message, StringComparison.Ordinal);
        File.WriteAllText(Path.Combine(folder, "project", "02-more.json"), "[{\"type\":\"point\",\"id\":\"lost\",\"name\":\"Lost\",\"ownerId\":\"nowhere\",\"kind\":\"analog\",\"role\":\"sensor\"}]");
        Assert.Contains("02-more.json does not stand: [lost]", Assert.Throws<FileRefusedException>(() => ProjectFolder.Read(folder)).Message, StringComparison.Ordinal);
        File.Delete(Path.Combine(folder, "project", "02-more.json"));
        File.WriteAllText(Path.Combine(folder, "project", "02-b.csv"), "Building,Floor,Room,Equipment,Template\nBarn,Loft,Study,Fan,No such\n");
        Assert.Contains("There is no template ‘No such’ in this folder", Assert.Throws<FileRefusedException>(() => ProjectFolder.Read(folder)).Message, StringComparison.Ordinal);
        Directory.CreateDirectory(Path.Combine(folder, "templates"));
        File.WriteAllText(Path.Combine(folder, "templates", "a.json"), "{\"id\":\"a\",\"name\":\"A\",\"records\":[]}");
        Assert.Contains("a.json: The template ‘A’ has 0 records", Assert.Throws<FileRefusedException>(() => ProjectFolder.Read(folder)).Message, StringComparison.Ordinal);
        Directory.Delete(folder, recursive: true);
    }
}
