using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Units;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>
/// The plant around a sequence on the bench, tied to its points directly: no terminals, no drives that take their time, no
/// sensors that lag. It has the weather and the people of the virtual site.
/// </summary>
public sealed class BenchPlant : IBenchPlant
{
    private readonly Plant _plant;
    private readonly SitePlan _plan;
    private readonly List<Tie> _driven = [], _measured = [];
    private long _next;

    private sealed record Tie(RecordId Point, int Quantity, double Factor, double Offset);

    /// <summary>Builds it; see <see cref="SiteBuilder.Around"/>.</summary>
    public BenchPlant(Project project, IReadOnlyCollection<Point> points)
    {
        _plan = SiteBuilder.Around(project, points);
        _plant = new Plant(_plan);
        foreach (Point point in points)
        {
            if (SiteBuilder.QuantityOf(project, point) is not { } name || _plant.IndexOf(name) is not (>= 0 and var quantity)) continue;
            var (factor, offset) = Plant.UnitOf(name) is { } native && Unit.Find(point.Unit) is { } own && native.To(own) is { } to ? to : (1, 0);
            (point.Role == PointRole.Sensor ? _measured : _driven).Add(new Tie(point.Id, quantity, factor, offset));
        }
        LoadHalf(points.Select(p => SiteBuilder.QuantityOf(project, p)).OfType<string>());
    }

    /// <summary>What is fed, and nobody on the bench drives, runs and asks for half of what it can take: a supply without a load proves little.</summary>
    private void LoadHalf(IEnumerable<string> tied)
    {
        var own = tied.Select(QuantityName.Parse).Where(q => q.Sort == QuantityName.Machine).Select(q => q.Thing).ToHashSet();
        foreach (SiteMachine machine in _plan.Machines.Where(m => !own.Contains(m.Id)))
        {
            foreach (Core.Plant.PlantQuantity quantity in EquipmentKind.Find(machine.Kind).Quantities.Where(q => q.IsDriven))
            {
                if (quantity.Unit == "%" || quantity.Key == "run") _plant[_plant.IndexOf($"{QuantityName.Machine}/{machine.Id}/{quantity.Key}")] = quantity.Unit == "%" ? 50 : 1;
            }
        }
    }

    /// <summary>What stands there.</summary>
    public SitePlan Plan => _plan;

    /// <inheritdoc/>
    public void Begin(long at)
    {
        _next = at;
        _plant.LookOutside(at);
        _plant.Publish();
    }

    /// <inheritdoc/>
    public bool Have(RecordId point, double value)
    {
        if (_measured.Find(t => t.Point == point) is not { } tie) return false;
        _plant.Have(tie.Quantity, (value - tie.Offset) / tie.Factor);
        return true;
    }

    /// <inheritdoc/>
    public void GoTo(long now, Func<RecordId, PinValue> commanded, Action<RecordId, double> measured)
    {
        foreach (Tie tie in _driven)
        {
            PinValue asked = commanded(tie.Point);
            _plant[tie.Quantity] = asked.IsUsable ? asked.Value : 0;
        }
        for (; _next <= now; _next += Plant.StepSeconds * 1000) _plant.Step(_next);
        foreach (Tie tie in _measured) measured(tie.Point, (_plant[tie.Quantity] * tie.Factor) + tie.Offset);
    }
}
