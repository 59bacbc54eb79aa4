using System.Globalization;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>A device on a rail: the controller itself, or a module beside it.</summary>
/// <param name="Module">The module; null for the controller.</param>
/// <param name="Model">Its model; null where the catalogue has none of that id.</param>
/// <param name="FromMillimetres">Where it begins, from the left end of the rail.</param>
public sealed record RailDevice(IoModule? Module, HardwareModel? Model, int FromMillimetres)
{
    /// <summary>How wide it is, mm.</summary>
    public int WidthMillimetres => Model?.WidthMillimetres ?? 0;
}

/// <summary>A rail of an enclosure with what stands on it, from the left.</summary>
public sealed record Rail(int Number, IReadOnlyList<RailDevice> Devices)
{
    /// <summary>How much of it is taken, mm.</summary>
    public int UsedMillimetres => Devices.Sum(d => d.WidthMillimetres);
}

/// <summary>A supply of an enclosure: what is drawn from it and what it gives, mA.</summary>
public sealed record SupplyBudget(string Supply, int DrawnMilliamps, int GivenMilliamps)
{
    /// <summary>Whether nothing in the enclosure gives it, so that it comes from outside and must give what is drawn.</summary>
    public bool IsFromOutside => GivenMilliamps == 0;

    /// <summary>Why it does not suffice, or null.</summary>
    public string? Short => IsFromOutside || DrawnMilliamps <= GivenMilliamps ? null
        : string.Create(CultureInfo.InvariantCulture, $"{DrawnMilliamps} mA are drawn from {Supply} and {GivenMilliamps} mA are given. Add or enlarge a power supply, or move modules elsewhere.");
}

/// <summary>An enclosure as it is built: rails to scale, and what its supplies have to give.</summary>
public sealed record Enclosure(int RailMillimetres, IReadOnlyList<Rail> Rails, IReadOnlyList<SupplyBudget> Supplies, int Price)
{
    /// <summary>The enclosure of a controller; the work is proportional to what stands in it.</summary>
    public static Enclosure Of(Project project, Controller controller)
    {
        var modules = project.Referrers<IoModule>(controller.Id).ToList();
        HardwareModel? own = Catalogue.Find(project, controller.ModelId);
        int rails = Math.Max(controller.Rails, modules.Select(m => m.Rail).DefaultIfEmpty(1).Max());
        var built = new List<Rail>(rails);
        var models = new List<HardwareModel>();
        for (int number = 1; number <= rails; number++)
        {
            var devices = new List<RailDevice>();
            int at = 0;
            void Put(IoModule? module, HardwareModel? model)
            {
                devices.Add(new RailDevice(module, model, at));
                at += model?.WidthMillimetres ?? 0;
                if (model is not null) models.Add(model);
            }
            if (number == 1) Put(null, own);
            foreach (IoModule module in modules.Where(m => m.Rail == number).OrderBy(m => m.Turn).ThenBy(m => m.Address)) Put(module, Catalogue.Find(project, module.ModelId));
            built.Add(new Rail(number, devices));
        }
        var supplies = models.SelectMany(m => m.Draws.Concat(m.Gives)).Select(c => c.Supply).Distinct().Order(StringComparer.Ordinal)
            .Select(s => new SupplyBudget(s, models.Sum(m => m.Draws.Where(c => c.Supply == s).Sum(c => c.Milliamps)), models.Sum(m => m.Gives.Where(c => c.Supply == s).Sum(c => c.Milliamps))));
        return new Enclosure(controller.RailMillimetres, built, [.. supplies], models.Sum(m => m.Price));
    }

    /// <summary>What is wrong with how it is built, in words, each by a key of its own.</summary>
    public IEnumerable<(string Key, string What, string Why)> Troubles(Controller controller)
    {
        foreach (Rail rail in Rails)
        {
            if (rail.Number > controller.Rails) yield return ($"rail-missing|{rail.Number}", $"{controller.Name} has modules on a rail that its enclosure has not.", $"They stand on rail {rail.Number} of {controller.Rails}. Move them, or give the enclosure more rails.");
            else if (rail.UsedMillimetres > RailMillimetres) yield return ($"rail-full|{rail.Number}", $"Rail {rail.Number} of {controller.Name} is too full.", string.Create(CultureInfo.InvariantCulture, $"What stands on it takes {rail.UsedMillimetres} mm and the rail has {RailMillimetres} mm. Move a module to another rail, or choose a wider enclosure."));
        }
        foreach (SupplyBudget supply in Supplies)
        {
            if (supply.Short is { } why) yield return ($"supply|{supply.Supply}", $"{supply.Supply} does not suffice in {controller.Name}.", why);
        }
    }

    /// <summary>
    /// The modules of a controller with one of them put on a rail before another, or at the end; turns are counted anew on the
    /// rails that it leaves and comes to. Only what changes is answered.
    /// </summary>
    public static IReadOnlyList<IoModule> Moved(Project project, IoModule module, int rail, RecordId? before)
    {
        var others = project.Referrers<IoModule>(module.ControllerId).Where(m => m.Id != module.Id).OrderBy(m => m.Turn).ThenBy(m => m.Address).ToList();
        var there = others.Where(m => m.Rail == rail).ToList();
        int at = before is { } mark && there.FindIndex(m => m.Id == mark) is >= 0 and var found ? found : there.Count;
        there.Insert(at, module with { Rail = rail });
        return [.. there.Select((m, turn) => m with { Turn = turn }).Where(m => project.Find<IoModule>(m.Id) is not { } was || was.Turn != m.Turn || was.Rail != m.Rail)];
    }

    /// <summary>On which rail a device of a width has room: the first such, else the last.</summary>
    public int RailFor(int width) => (Rails.FirstOrDefault(r => r.UsedMillimetres + width <= RailMillimetres) ?? Rails[^1]).Number;
}
