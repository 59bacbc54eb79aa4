using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Hardware;

/// <summary>A controller in the building.</summary>
public sealed record Controller : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<Controller> AsKind { get; } = new("controller")
    {
        Nouns = [new("controller", "controllers") { NameTokens = ["building", "floor", "room", "short"] }],
        RunsInImage = true,
        NeedsParts = [SoftwareParts.Kernel, SoftwareParts.Network],
        Numbers = [new UniqueNumber<Controller>("deviceInstance", 2101, MostDeviceInstance, c => c.DeviceInstance, (c, n) => c with { DeviceInstance = n })],
        OnlyOnce = [("address", c => c.Address is null ? c : c with { Address = null }), ("busNumber", c => c.BusNumber is null ? c : c with { BusNumber = null })],
        Checks = Findings.Checks.OnController,
        Fields =
        [
            new Field<Controller>("modelId", "Model")
            {
                Uses = FieldUses.Grid | FieldUses.Form,
                Choices = [.. Catalogue.Shipped.Where(m => m.RunsPrograms).Select(m => m.Id)],
                Says = (_, c) => c.ModelId,
                Reads = (project, c, text) => Catalogue.Find(project, text.ToLowerInvariant()) is { RunsPrograms: true } model ? FieldReading.Of(c with { ModelId = model.Id })
                    : FieldReading.Refused($"‘{text}’ is no controller of the catalogue. There are {string.Join(", ", Catalogue.Of(project).Where(m => m.RunsPrograms).Select(m => m.Id))}."),
            }.Told("The model of the catalogue, which says its terminals and memory."),
            FieldOf<Controller>.Whole("rails", "Rails", c => c.Rails, (c, v) => c with { Rails = v }, FieldUses.Form).Told("How many rails its enclosure has.", 1, MostRails),
            FieldOf<Controller>.Whole("railMillimetres", "Rail width, mm", c => c.RailMillimetres, (c, v) => c with { RailMillimetres = v }, FieldUses.Form).Told("How wide each rail of its enclosure is, in mm.", LeastRail, MostRail),
            FieldOf<Controller>.Whole("deviceInstance", "Device instance", c => c.DeviceInstance, (c, v) => c with { DeviceInstance = v }, FieldUses.Grid | FieldUses.Form).Told("The number by which the network knows it, once on the whole network.", 0, MostDeviceInstance),
            FieldOf<Controller>.Text("address", "Address", c => c.Address, (c, v) => c with { Address = v }, FieldUses.Grid | FieldUses.Form, hint: NetworkSettings.First).Told("Its IPv4 address. Empty: the set-up sheet proposes the next free one."),
            FieldOf<Controller>.Whole("prefixLength", "Network prefix, bits", c => c.PrefixLength, (c, v) => c with { PrefixLength = v }, FieldUses.Form).Told("How many bits of its address are the network's; 24 is the mask 255.255.255.0.", 8, 30),
            FieldOf<Controller>.Text("router", "Router", c => c.Router, (c, v) => c with { Router = v }, FieldUses.Form).Told("The address of the router to other networks; empty where there is none."),
            FieldOf<Controller>.Text("runtime", "Runtime", c => c.Runtime, (c, v) => c with { Runtime = v }, FieldUses.Form, hint: "the newest that the model takes").Told("Which version of the runtime it is to run."),
            FieldOf<Controller>.Choice("startsAfterPower", "Starts after power", ["yes", "no"], c => c.StartsAfterPower ? "yes" : "no", (c, v) => c with { StartsAfterPower = v == "yes" }, FieldUses.Form).Told("Whether its program starts by itself when the supply comes back."),
            FieldOf<Controller>.Link<BusLine>("busLineId", "Bus line", "line", c => c.BusLineId, (c, v) => c with { BusLineId = v }, FieldUses.Form).Told("The two-wire line that it hangs on with an interface of its own; empty for none."),
            new Field<Controller>("busNumber", "Number on the bus line")
            {
                Uses = FieldUses.Form,
                IsNumber = true,
                Says = (_, c) => c.BusNumber?.ToString(System.Globalization.CultureInfo.InvariantCulture),
                Sorts = c => c.BusNumber,
                Reads = (_, c, text) => text.Length == 0 ? FieldReading.Of(c with { BusNumber = null }) : FieldTexts.Whole(text, out int number) is { } refusal ? FieldReading.Refused(refusal) : FieldReading.Of(c with { BusNumber = number }),
            }.Told("The last part of its individual address there, 1 to 255."),
            FieldOf<Controller>.Span("silentAfterSeconds", "Silent after", c => c.SilentAfterSeconds, (c, v) => c with { SilentAfterSeconds = v }, FieldUses.Form, "time in s").Told("For how long it may not be heard before that counts as silence; until then it is late.", 1, MostSilentSeconds),
            new Field<Controller>("extraParts", "Extra parts")
            {
                Uses = FieldUses.Form,
                Hint = "none",
                Says = (_, c) => c.ExtraParts is { Count: > 0 } parts ? string.Join(", ", parts) : null,
                Reads = (_, c, text) => FieldReading.Of(c with { ExtraParts = text.Split([',', ';', ' '], StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries) is { Length: > 0 } parts ? [.. parts.Select(p => p.ToLowerInvariant()).Distinct().Order(StringComparer.Ordinal)] : null }),
            }.Told("Software parts that it gets although its program needs them not, by their keys with commas between."),
            FieldOf<Controller>.Shown("placeId", "Place", (project, c) => project.Find(c.PlaceId)?.Name, "Move the controller on its panel.", FieldUses.Grid),
        ],
    };

    /// <summary>The most rails of an enclosure.</summary>
    public const int MostRails = 8;

    private const int MostDeviceInstance = 4_194_302, LeastRail = 50, MostRail = 3000, MostSilentSeconds = 86_400;

    /// <summary>Where its panel hangs.</summary>
    public required RecordId PlaceId { get; init; }

    /// <summary>Which model of the catalogue.</summary>
    public required string ModelId { get; init; }

    /// <summary>Its device instance on the supervisory network, 0 to 4 194 302 (ISO 16484-5, 12.11).</summary>
    public int DeviceInstance { get; init; }

    /// <summary>How many rails its enclosure has.</summary>
    public int Rails { get; init; } = 2;

    /// <summary>How wide each rail is, mm.</summary>
    public int RailMillimetres { get; init; } = 540;

    /// <summary>Its IPv4 address, or null while none was decided.</summary>
    public string? Address { get; init; }

    /// <summary>How many bits of the address are the network's.</summary>
    public int PrefixLength { get; init; } = 24;

    /// <summary>The address of the router to other networks, or null.</summary>
    public string? Router { get; init; }

    /// <summary>The version of the runtime, or null for the newest that the model takes.</summary>
    public string? Runtime { get; init; }

    /// <summary>Whether its program starts by itself when the supply comes back.</summary>
    public bool StartsAfterPower { get; init; } = true;

    /// <summary>The two-wire line that it hangs on, or null.</summary>
    public RecordId? BusLineId { get; init; }

    /// <summary>The last part of its individual address on that line, or null while that is open.</summary>
    public int? BusNumber { get; init; }

    /// <summary>For how long it may not be heard before that counts as silence, s.</summary>
    public double SilentAfterSeconds { get; init; } = 60;

    /// <summary>Software parts that it gets although its program needs them not, by their keys; null for none.</summary>
    public IReadOnlyList<string>? ExtraParts { get; init; }

    /// <inheritdoc/>
    public override RecordId? ParentId => PlaceId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId place = map.Owner(InPlace, PlaceId);
        RecordId? line = map.Link(OnLine, BusLineId);
        return place == PlaceId && line == BusLineId ? this : this with { PlaceId = place, BusLineId = line };
    }

    private static readonly ReferenceSort OnLine = ReferenceSort.Link<BusLine>("on", "busLineId", "line");

    private static readonly ReferenceSort InPlace = ReferenceSort.Owner<Place>("in", "placeId", "place");

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys() =>
    [
        new UniqueKey($"controller|{Name.ToLowerInvariant()}", "name", "There is already a controller called ‘{0}’. Choose another name."),
        new UniqueKey($"device|{DeviceInstance}", "deviceInstance", $"Device instance {DeviceInstance} belongs to controller ‘{{0}}’. Choose another number."),
        .. BusLineId is { } line && BusNumber is { } number ? [new UniqueKey(BusDevice.NumberKey(line, number), "busNumber", $"Number {number} on this line is that of ‘{{0}}’. Choose a free one.")] : Array.Empty<UniqueKey>(),
        .. Address is { } address ? [new UniqueKey(NetworkSettings.Key(address), "address", $"{address} is the address of controller ‘{{0}}’. Choose another.")] : Array.Empty<UniqueKey>(),
    ];

    // Its interface is one more device on the line, and draws what such a one draws.
    private const int BusMilliamps = 10;

    /// <inheritdoc/>
    public override IEnumerable<Derivation.Share> Shares() => BusLineId is { } line ? [new Derivation.Share(line, BusLine.Count, 1), new Derivation.Share(line, BusLine.Drawn, BusMilliamps)] : [];

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        if (BusNumber is < 1 or > Bus.IndividualAddress.MostDevice) yield return new Refusal(Id, "busNumber", $"On its line it has number 1 to {Bus.IndividualAddress.MostDevice}, not {BusNumber}.");
        foreach (Refusal refusal in CheckName(40)) yield return refusal;
        if (Catalogue.Find(project, ModelId) is not { } model) yield return new Refusal(Id, "modelId", $"The catalogue has no model ‘{ModelId}’.");
        else if (!model.RunsPrograms) yield return new Refusal(Id, "modelId", $"{model.Name} runs no programs; put it beside a controller as a module.");
        else if (project.Sum(Id, IoModule.Count) is var modules && modules > model.MostModules) yield return new Refusal(Id, "modelId", $"{Name} has {modules} modules beside it and {model.Name} takes {model.MostModules}. Choose a larger model, or move modules to another controller first.");
        else
        {
            if (Runtime is { } runtime && !model.Runtimes.Contains(runtime)) yield return new Refusal(Id, "runtime", $"{model.Name} takes no runtime ‘{runtime}’. It takes {string.Join(", ", model.Runtimes)}.");
            foreach (string part in (ExtraParts ?? []).Where(p => model.Parts.All(m => m.Key != p))) yield return new Refusal(Id, "extraParts", $"{model.Name} has no software part ‘{part}’. It has {string.Join(", ", model.Parts.Select(p => p.Key))}.");
        }
        foreach (var (field, sentence) in NetworkSettings.Wrong(Address, PrefixLength, Router)) yield return new Refusal(Id, field, sentence);
        if (!(SilentAfterSeconds is >= 1 and <= MostSilentSeconds)) yield return new Refusal(Id, "silentAfterSeconds", $"A controller is silent after 1 s to one day, not {SilentAfterSeconds} s.");
        if (Rails is < 1 or > MostRails) yield return new Refusal(Id, "rails", $"An enclosure has 1 to {MostRails} rails, not {Rails}.");
        if (RailMillimetres is < LeastRail or > MostRail) yield return new Refusal(Id, "railMillimetres", $"A rail is {LeastRail} to {MostRail} mm wide, not {RailMillimetres}.");
        if (DeviceInstance is < 0 or > MostDeviceInstance) yield return new Refusal(Id, "deviceInstance", $"Device instance {DeviceInstance} is not between 0 and 4 194 302.");
    }
}
