using LoftyWren.Core.Hardware;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Units;
using LoftyWren.VirtualSite.Wiring;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>
/// The plant around a sequence on the bench, tied to its points directly, without terminals: thermometers lag and drives take
/// their time as on the site, but nothing makes noise. It has the weather and the people of the virtual site.
/// </summary>
public sealed class BenchPlant : IBenchPlant
{
    private readonly Plant _plant;
    private readonly SitePlan _plan;
    private readonly List<Tie> _driven = [], _measured = [];
    private long _next;

    /// <summary>A point on the bench: what its sensor is at, or its drive, in the unit of the quantity.</summary>
    private sealed class Tie(RecordId point, int quantity, double factor, double offset, double each)
    {
        public RecordId Point => point;

        public int Quantity => quantity;

        public double At { get; set; } = double.NaN;

        public double Factor => factor;

        public double Offset => offset;

        /// <summary>A sensor looks: a thermometer follows with its lag. A drive goes as far as it comes in a step.</summary>
        public void Step(double to) => At = double.IsNaN(At) ? to : At + (IsDrive ? Math.Clamp(to - At, -each, each) : (to - At) * each);

        public bool IsDrive { get; init; }
    }

    /// <summary>Builds it; see <see cref="SiteBuilder.Around"/>.</summary>
    public BenchPlant(Project project, IReadOnlyCollection<Point> points)
    {
        _plan = SiteBuilder.Around(project, points);
        _plant = new Plant(_plan);
        foreach (Point point in points)
        {
            if (SiteBuilder.QuantityOf(project, point) is not { } name || _plant.IndexOf(name) is not (>= 0 and var quantity)) continue;
            var (factor, offset) = Plant.UnitOf(name) is { } native && Unit.Find(point.Unit) is { } own && native.To(own) is { } to ? to : (1, 0);
            if (point.Role == PointRole.Sensor) _measured.Add(new Tie(point.Id, quantity, factor, offset, Plant.UnitOf(name)?.Quantity == Quantity.Temperature ? Math.Min(1, Plant.StepSeconds / FieldWire.LagSeconds) : 1));
            else _driven.Add(new Tie(point.Id, quantity, factor, offset, project.BindingOf(point.Id) is Fitting { RunTimeSeconds: > 0 } fitting ? Math.Abs(fitting.High - fitting.Low) * Plant.StepSeconds / fitting.RunTimeSeconds : double.PositiveInfinity) { IsDrive = true });
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
        tie.At = double.NaN;
        return true;
    }

    /// <inheritdoc/>
    public void GoTo(long now, Func<RecordId, PinValue> commanded, Action<RecordId, double> measured)
    {
        foreach (Tie tie in _measured.Where(t => double.IsNaN(t.At))) tie.Step(_plant[tie.Quantity]);
        for (; _next <= now; _next += Plant.StepSeconds * 1000)
        {
            foreach (Tie tie in _driven)
            {
                PinValue asked = commanded(tie.Point);
                tie.Step(asked.IsUsable ? asked.Value : 0);
                _plant[tie.Quantity] = tie.At;
            }
            _plant.Step(_next);
            foreach (Tie tie in _measured) tie.Step(_plant[tie.Quantity]);
        }
        foreach (Tie tie in _measured) measured(tie.Point, (tie.At * tie.Factor) + tie.Offset);
    }
}
