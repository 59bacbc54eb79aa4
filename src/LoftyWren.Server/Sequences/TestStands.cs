using System.Text.Json;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Supervision;
using LoftyWren.VirtualSite;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.Server.Sequences;

/// <summary>What tests are lived on: nothing but the bench, a plant beside it, or a copy of the site. One copy is taken for all tests that are run together.</summary>
internal sealed class TestStands(IVirtualSite site) : ITestStands
{
    private readonly Dictionary<RecordId, string> _installed = [];
    private SiteCopy? _copy;

    /// <inheritdoc/>
    public ITestStand? For(Project project, Sequence sequence, FunctionTest test)
    {
        if (test.On == TestGround.Alone) return null;
        if (test.On == TestGround.Site) return new SiteStand(_copy ??= site.Copy(), sequence.Id);
        var (image, points) = Bench(project, sequence, test);
        var plant = new BenchPlant(project, points);
        if (plant.Plan.Rooms.Count + plant.Plan.Machines.Count == 0) throw new InvalidOperationException("Nothing that this sequence reads or commands is tied to a room or a machine, so there is no plant to answer. Tie its points on the panel page, or test it alone.");
        return new EngineStand(image, sequence.Id, plant);
    }

    /// <inheritdoc/>
    public string RestsOn(Project project, Sequence sequence, FunctionTest test) =>
        test.On != TestGround.Plant ? "" : Bench(project, sequence, test).Points is var points
            ? HostKinds.HashOf(JsonSerializer.SerializeToUtf8Bytes(new { Plan = SiteBuilder.Around(project, points), Ties = points.Select(p => SiteBuilder.QuantityOf(project, p)) }, RecordJson.Options)) : "";

    /// <summary>What runs on the site where a test is lived on a copy of it; empty elsewhere.</summary>
    public string Installed(Sequence sequence, FunctionTest test)
    {
        if (test.On != TestGround.Site || sequence.ControllerId is not { } host) return "";
        if (_installed.TryGetValue(host, out string? known)) return known;
        try
        {
            return _installed[host] = site.Find(host)?.Hash ?? "nothing";
        }
        catch (LinkException)
        {
            // Nobody knows, so nobody can say that it is what it was.
            return _installed[host] = "not heard";
        }
    }

    private static (ControllerImage Image, IReadOnlyList<Point> Points) Bench(Project project, Sequence sequence, FunctionTest test)
    {
        ControllerImage image = ProofBench.Alone(project, sequence with { Tests = [test] });
        return (image, [.. image.Records.OfType<Point>()]);
    }
}
