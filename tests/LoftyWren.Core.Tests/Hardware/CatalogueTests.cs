using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Hardware;

public class CatalogueTests
{
    private const string Head = "{\n  \"format\": \"lofty-wren-hardware-1\",\n  \"models\": [\n";
    private const string Good = "    { \"id\": \"own-4\", \"name\": \"Own module\", \"kind\": \"module\", \"widthMillimetres\": 36,\n      \"groups\": [\n        { \"prefix\": \"UI\", \"name\": \"Inputs\", \"count\": 4, \"direction\": \"in\", \"signals\": [\"pt1000\"] }\n      ] }";

    private static List<string> Errors(string models) => [.. CatalogueFile.Parse(Head + models + "\n  ]\n}\n").Errors.Select(e => e.ToString())];

    [Fact]
    public void What_ships_is_a_whole_range_without_a_mistake()
    {
        var kinds = Catalogue.Shipped.GroupBy(m => m.Kind).ToDictionary(g => g.Key, g => g.Count());
        Assert.True(kinds[HardwareKind.Controller] + kinds[HardwareKind.Server] >= 6 && kinds[HardwareKind.Server] >= 1 && kinds[HardwareKind.Module] >= 14 && kinds[HardwareKind.Supply] >= 1 && kinds[HardwareKind.Gateway] >= 1);
        Assert.All(Catalogue.Shipped, m => Assert.Empty(CatalogueFile.Check(m)));
        // Every signal but that of memory has a terminal that carries it.
        Assert.Empty(Signal.All.Where(s => s != Signal.Memory).Except(Catalogue.Shipped.SelectMany(m => m.Groups).SelectMany(g => g.Signals)));
    }

    [Fact]
    public void A_file_is_read_or_all_that_is_wrong_is_told_with_its_line()
    {
        ListReading<HardwareModel> read = CatalogueFile.Parse(Head + Good + "\n  ]\n}\n");
        Assert.Empty(read.Errors);
        Assert.Equal(4, read.Items[0].TerminalCount);
        Assert.Equal(["line 7: There is no signal ‘pt1001’. There are " + string.Join(", ", Signal.All.Select(s => s.Key)) + "."], Errors(Good.Replace("pt1000", "pt1001", StringComparison.Ordinal)).Select(e => e.Replace(" line 6:", " line 7:", StringComparison.Ordinal).Replace("line 6:", "line 7:", StringComparison.Ordinal)));
        Assert.Contains("line 4: There is no field of that name", Errors(Good.Replace("widthMillimetres", "width", StringComparison.Ordinal))[0].Replace("(width)", "", StringComparison.Ordinal));
        // Two models, each wrong in its own line.
        List<string> two = Errors(Good.Replace("36", "9000", StringComparison.Ordinal) + ",\n" + Good.Replace("own-4", "own-5", StringComparison.Ordinal).Replace("\"in\"", "\"out\"", StringComparison.Ordinal));
        Assert.Equal(["line 4: Model ‘own-4’ is 9000 mm wide; 1 to 600 is believable.", "line 8: Model ‘own-5’, terminals UI: Pt1000 is nothing that an output gives."], two);
        // Figures that would not add up are told, not fallen over.
        Assert.Contains("terminals; at most 128 can be drawn and wired.", Errors(Good.Replace("\"count\": 4", "\"count\": 2000000000", StringComparison.Ordinal).Replace("{ \"prefix\": \"UI\"", "{ \"prefix\": \"BI\", \"name\": \"x\", \"count\": 2000000000, \"direction\": \"in\", \"signals\": [\"pt1000\"] }, { \"prefix\": \"UI\"", StringComparison.Ordinal))[0], StringComparison.Ordinal);
        Assert.Contains("between 0 and 1000000 mA", Errors(Good.Replace("\"groups\"", "\"draws\": [ { \"supply\": \"24 V\", \"milliamps\": 2000000000 } ], \"groups\"", StringComparison.Ordinal))[0], StringComparison.Ordinal);
        Assert.Equal(["line 8: The id ‘own-4’ is that of the model in line 4 too."], Errors(Good + ",\n" + Good));
    }

    [Theory]
    [InlineData("{", 1, "This is not JSON")]
    [InlineData("[]", 1, "no hardware catalogue of this version")]
    [InlineData("{ \"format\": \"lofty-wren-hardware-1\" }", 1, "no list of \"models\"")]
    [InlineData("{\n \"format\": \"lofty-wren-hardware-1\",\n \"models\": [ 5 ] }", 3, "not of the sort that belongs here")]
    [InlineData("{\n \"format\": \"lofty-wren-hardware-1\",\n \"models\": [ null ] }", 3, "")]
    [InlineData("{\n \"format\": \"lofty-wren-hardware-1\",\n \"models\": [\n { } ] }", 4, "Something is missing")]
    public void What_is_no_catalogue_is_told_in_words(string text, int line, string sentence)
    {
        FileError error = Assert.Single(CatalogueFile.Parse(text).Errors);
        Assert.Equal(line, error.Line);
        Assert.Contains(sentence, error.Sentence, StringComparison.Ordinal);
    }

    // trends need the network, which needs the kernel: the kernel comes first.
    [Fact]
    public void Parts_bring_along_all_that_they_need_and_never_go_in_circles()
    {
        HardwareModel model = Catalogue.Shipped.First(m => m.Id == "plant-12");
        Assert.Equal(["kernel", "network", "trends"], PartClosure.Of(model, ["trends"]).Parts.Select(p => p.Key));
        Assert.Equal([("supervision", "the application")], PartClosure.Of(model, ["supervision"]).Missing);
        SoftwarePart Part(string key, params string[] needs) => new(key, key, "1", 1, needs);
        Assert.Equal(["a", "b", "c", "a"], PartClosure.Circle([Part("a", "b"), Part("b", "c"), Part("c", "a"), Part("d", "a")]));
        Assert.Null(PartClosure.Circle([Part("a", "b", "c"), Part("b", "c"), Part("c")]));
        Assert.Contains("parts need each other in a circle, a → b → a", Assert.Single(CatalogueFile.Check(model with { Parts = [Part("a", "b"), Part("b", "a")] })), StringComparison.Ordinal);
    }

    [Fact]
    public void A_model_of_the_projects_own_serves_panels_and_goes_along_in_images()
    {
        HardwareModel own = CatalogueFile.Parse(Head + Good + "\n  ]\n}\n").Items[0];
        Project project = Accept(Project(), new OwnModel { Id = new("m1"), Name = own.Name, Model = own }, new IoModule { Id = new("mod1"), Name = "A1", ControllerId = KilnRoom.Controller, ModelId = "own-4", Address = 1, Turn = 1 });
        var controller = project.Find<Core.Hardware.Controller>(KilnRoom.Controller)!;
        Assert.Equal(["1.UI1", "1.UI2", "1.UI3", "1.UI4"], PanelTerminals.Of(project, controller).Where(t => t.Module is not null).Select(t => t.Terminal));
        var image = Core.Images.ControllerImage.FromBytes(Core.Images.ControllerImage.Build(project, controller).ToBytes());
        Assert.Contains("1.UI4", new Core.Controllers.ControllerEngine(image).Terminals);
        Assert.Contains("is a model that ships", Refused(project, Edit.Of(new OwnModel { Id = new("m2"), Name = own.Name, Model = own with { Id = "ui-8" } }))[0].Sentence, StringComparison.Ordinal);
        Assert.Contains("There is already a model with the id ‘own-4’", Refused(project, Edit.Of(new OwnModel { Id = new("m2"), Name = own.Name, Model = own }))[0].Sentence, StringComparison.Ordinal);
    }
}
