using System.Runtime.CompilerServices;
using System.Text.Json.Serialization;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Derivation;
using LoftyWren.Core.Fields;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Bus.Topology;

/// <summary>A parameter that was set: its path and its value as it is kept.</summary>
public sealed record DeviceSetting(string Path, string Value);

/// <summary>The groups of an object; the first is that which it sends to.</summary>
public sealed record ObjectJoin(string Object, IReadOnlyList<RecordId> Groups);

/// <summary>What a channel is for: its own name, and the room or the equipment that it serves.</summary>
public sealed record ChannelUse(string Channel)
{
    /// <summary>What people call it here.</summary>
    public string? Name { get; init; }

    /// <summary>The room that it serves, where that is not the device's own.</summary>
    public RecordId? PlaceId { get; init; }

    /// <summary>The equipment that it drives.</summary>
    public RecordId? EquipmentId { get; init; }
}

/// <summary>A device on a two-wire line.</summary>
public sealed record BusDevice : ProjectRecord
{
    /// <summary>The kind in the registry.</summary>
    public static RecordKind<BusDevice> AsKind { get; } = new("busDevice")
    {
        Nouns = [new("bus device", "bus devices")],
        Grain = ConflictGrain.Part,
        Parts = [new("settings", "path"), new("joins", "object"), new("uses", "channel")],
        RunsInImage = true,
        OnlyOnce = [("number", d => d.Number is null ? d : d with { Number = null }), ("serial", d => d.Serial is null ? d : d with { Serial = null })],
        Checks = BusChecks.OnDevice,
        Fields =
        [
            new Field<BusDevice>("descriptionId", "Device")
            {
                Uses = FieldUses.Grid | FieldUses.Form,
                Says = (project, d) => DescriptionShelf.Find(project, d.DescriptionId)?.Name ?? d.DescriptionId,
                Reads = (project, d, text) => DescriptionShelf.Of(project).FirstOrDefault(x => x.Id == text.ToLowerInvariant() || x.Name.Equals(text, StringComparison.OrdinalIgnoreCase)) is { } description
                    ? FieldReading.Of(d with { DescriptionId = description.Id, Revision = description.Revision }) : FieldReading.Refused($"‘{text}’ is no device that has a description. Wire › Bus library shows them all."),
            }.Told("Which device it is, by its description."),
            FieldOf<BusDevice>.Link<BusLine>("lineId", "Line", "line", d => d.LineId, (d, v) => d with { LineId = v }, FieldUses.Grid | FieldUses.Form).Told("The line that it hangs on."),
            new Field<BusDevice>("number", "Number")
            {
                Uses = FieldUses.Grid | FieldUses.Form,
                IsNumber = true,
                Says = (_, d) => d.Number?.ToString(System.Globalization.CultureInfo.InvariantCulture),
                Sorts = d => d.Number,
                Reads = (_, d, text) => text.Length == 0 ? FieldReading.Of(d with { Number = null }) : FieldTexts.Whole(text, out int number) is { } refusal ? FieldReading.Refused(refusal) : FieldReading.Of(d with { Number = number }),
            }.Told("The last part of its individual address, once on its line: 1 to 255; of a coupler 0."),
            FieldOf<BusDevice>.Text("serial", "Serial number", d => d.Serial, (d, v) => d with { Serial = v?.ToUpperInvariant() }, FieldUses.Grid | FieldUses.Form).Told("As on its label; by it the device can be found before it has an address."),
            new Field<BusDevice>("isSecured", "Secured")
            {
                Uses = FieldUses.Grid | FieldUses.Form,
                Choices = ["no", "yes"],
                Says = (_, d) => d.IsSecured ? "yes" : "no",
                Reads = (_, d, text) => text.ToLowerInvariant() is not ("yes" or "no" or "") ? FieldReading.Refused($"A device is secured, yes or no, not ‘{text}’.") : FieldReading.Of(d with { IsSecured = text.Equals("yes", StringComparison.OrdinalIgnoreCase) }),
            }.Told("Whether it takes orders only over sealed telegrams; it then needs the certificate on its sticker."),
            FieldOf<BusDevice>.Text("reachedAt", "Reached at", d => d.ReachedAt, (d, v) => d with { ReachedAt = v }, FieldUses.Form).Told("Of an interface: the address and port at which it listens, such as 192.168.1.20:3671. Empty: that of the virtual site."),
            FieldOf<BusDevice>.Shown("address", "Address", (project, d) => d.AddressIn(project)?.ToString(), "The address follows from line and number.", FieldUses.Grid),
        ],
    };

    /// <summary>The most settings and joins of a device.</summary>
    public const int Most = 8000;

    /// <summary>Where it is.</summary>
    public required RecordId PlaceId { get; init; }

    /// <summary>The id of its description.</summary>
    public required string DescriptionId { get; init; }

    /// <summary>The revision of the description that it was set up with.</summary>
    public int Revision { get; init; } = 1;

    /// <summary>The line it hangs on, or null while that is open.</summary>
    public RecordId? LineId { get; init; }

    /// <summary>The last part of its individual address, or null while that is open.</summary>
    public int? Number { get; init; }

    /// <summary>Its serial number as on its label, or null while nobody knows it.</summary>
    public string? Serial { get; init; }

    /// <summary>Whether it is put to work with its certificate, and from then on takes orders only over sealed telegrams.</summary>
    public bool IsSecured { get; init; }

    /// <summary>Of an interface, where it is reached: address and port; null for that of the virtual site.</summary>
    public string? ReachedAt { get; init; }

    /// <summary>Parameters that were set, in the order of their paths; what is hidden keeps its value.</summary>
    public IReadOnlyList<DeviceSetting> Settings { get; init; } = [];

    /// <summary>The groups of its objects, in the order of the objects' paths.</summary>
    public IReadOnlyList<ObjectJoin> Joins { get; init; } = [];

    /// <summary>What its channels are for.</summary>
    public IReadOnlyList<ChannelUse> Uses { get; init; } = [];

    /// <inheritdoc/>
    [JsonIgnore]
    public override RecordId? ParentId => PlaceId;

    /// <inheritdoc/>
    public override ProjectRecord Through(ReferenceMap map)
    {
        RecordId place = map.Owner(In, PlaceId);
        RecordId? line = map.Link(On, LineId);
        IReadOnlyList<ObjectJoin> joins = map.Each(Joins, j => map.Links(Joined, j.Groups) is var groups && ReferenceEquals(groups, j.Groups) ? j : groups.Count == 0 ? null : j with { Groups = groups });
        IReadOnlyList<ChannelUse> uses = map.Each(Uses, u => (map.Link(ServesPlace, u.PlaceId), map.Link(Drives, u.EquipmentId)) is var (p, e) && p == u.PlaceId && e == u.EquipmentId ? u : u with { PlaceId = p, EquipmentId = e });
        return place == PlaceId && line == LineId && ReferenceEquals(joins, Joins) && ReferenceEquals(uses, Uses) ? this : this with { PlaceId = place, LineId = line, Joins = joins, Uses = uses };
    }

    private static readonly ReferenceSort In = ReferenceSort.Owner<Place>("in", "placeId", "place"), On = ReferenceSort.Link<BusLine>("on", "lineId", "line"), Joined = ReferenceSort.Link<GroupAddress>("joined to", "joins", "group address"),
        ServesPlace = ReferenceSort.Link<Place>("serves", "uses", "place"), Drives = ReferenceSort.Link<Equipment>("drives", "uses", "piece of equipment") with { Alone = true };

    /// <inheritdoc/>
    public override IEnumerable<UniqueKey> UniqueKeys()
    {
        yield return new UniqueKey($"bus-device|{PlaceId}|{Name.ToLowerInvariant()}", "name", "There is already a bus device called ‘{0}’ here. Choose another name.");
        if (LineId is { } line && Number is { } number) yield return new UniqueKey(NumberKey(line, number), "number", $"Number {number} on this line is that of ‘{{0}}’. Choose a free one.");
        if (Serial is { } serial) yield return new UniqueKey($"bus-serial|{serial}", "serial", $"Serial number {serial} is that of ‘{{0}}’.");
    }

    internal static string NumberKey(RecordId line, int number) => $"bus-number|{line}|{number}";

    /// <inheritdoc/>
    public override IEnumerable<Refusal> Check(Project project)
    {
        foreach (Refusal refusal in CheckName()) yield return refusal;
        if (DescriptionShelf.Find(project, DescriptionId) is not { } description)
        {
            yield return new Refusal(Id, "descriptionId", $"There is no description ‘{DescriptionId}’ of such a device. Read its file into the bus library first.");
            yield break;
        }
        bool isCoupler = description.Role == LineRole.Coupler;
        if (Number is { } number && (number < (isCoupler ? 0 : 1) || number > IndividualAddress.MostDevice)) yield return new Refusal(Id, "number", isCoupler ? "A coupler has number 0 to 255; 0 is usual." : $"A device has number 1 to {IndividualAddress.MostDevice}, not {number}; 0 is that of the line's coupler.");
        if (IsSecured && !description.CanBeSecured) yield return new Refusal(Id, "isSecured", $"‘{description.Name}’ cannot be secured.");
        if (Serial is { } serial && BusSerial.Trouble(serial) is { } trouble) yield return new Refusal(Id, "serial", trouble);
        if (ReachedAt is { } at && !(System.Net.IPEndPoint.TryParse(at, out System.Net.IPEndPoint? reached) && reached.Port > 0)) yield return new Refusal(Id, "reachedAt", $"‘{at}’ is no address with a port. Write one such as 192.168.1.20:3671, or leave it empty.");
        if (ReachedAt is not null && description.Role != LineRole.Interface) yield return new Refusal(Id, "reachedAt", $"‘{description.Name}’ is no interface; only such are reached at an address.");
        if (Settings.Count > Most || Joins.Count > Most || Uses.Count > Most) yield return new Refusal(Id, "settings", $"A device has at most {Most} settings, joins and uses.");
        DeviceForm form = description.Form;
        foreach (DeviceSetting setting in Settings)
        {
            if (form.Find(setting.Path) is not { } parameter) yield return new Refusal(Id, "settings", $"‘{description.Name}’ has no parameter ‘{setting.Path}’.");
            else if (parameter.Is.Read(setting.Value).Refusal is { } wrong) yield return new Refusal(Id, "settings", wrong);
        }
        if (Settings.Select(s => s.Path).Distinct().Count() != Settings.Count) yield return new Refusal(Id, "settings", "A parameter is set twice.");
        foreach (ObjectJoin join in Joins)
        {
            if (form.FindObject(join.Object) is not { } o) yield return new Refusal(Id, "joins", $"‘{description.Name}’ has no object ‘{join.Object}’.");
            else
            {
                if (join.Groups.Count is < 1 or > 50 || join.Groups.Distinct().Count() != join.Groups.Count) yield return new Refusal(Id, "joins", $"‘{o.Path}’ is joined to 1 to 50 group addresses, each once.");
                foreach (Refusal refusal in CheckGroups(project, o, join.Groups)) yield return refusal;
            }
        }
        if (Joins.Select(j => j.Object).Distinct().Count() != Joins.Count) yield return new Refusal(Id, "joins", "An object is joined in two places.");
        foreach (ChannelUse use in Uses)
        {
            if (form.ChannelAt(use.Channel) < 0) yield return new Refusal(Id, "uses", $"‘{description.Name}’ has no channel ‘{use.Channel}’.");
            if (use.Name is { Length: > 80 }) yield return new Refusal(Id, "uses", "The name of a channel has at most 80 characters.");
        }
    }

    /// <inheritdoc/>
    public override IEnumerable<Refusal> CheckAgainst(Project project, IReadOnlyCollection<RecordId> changed) =>
        // Of what it refers to, only the datapoints of its groups can have become wrong for it.
        DescriptionIn(project) is not { } description ? [] : Joins.Where(j => j.Groups.Any(changed.Contains)).SelectMany(j => description.Form.FindObject(j.Object) is { } o ? CheckGroups(project, o, [.. j.Groups.Where(changed.Contains)]) : []);

    private IEnumerable<Refusal> CheckGroups(Project project, ObjectForm o, IReadOnlyList<RecordId> groups)
    {
        foreach (RecordId id in groups)
        {
            if (project.Find<GroupAddress>(id) is { } group && Datapoints.DatapointType.Find(group.Datapoint) is { } type && type.Bits != o.Type.Bits)
                yield return new Refusal(Id, "joins", $"{group.Number} ‘{group.Name}’ carries {type.Key} {type.Name.ToLowerInvariant()} of {type.Bits} bits, and {SaidOf(o)} of ‘{Name}’ is {o.Type.Key} {o.Type.Name.ToLowerInvariant()} of {o.Type.Bits}. Nothing would be understood; join it to another address.");
        }
    }

    /// <inheritdoc/>
    public override IEnumerable<Share> Shares()
    {
        if (LineId is not { } line) yield break;
        yield return new Share(line, BusLine.Count, 1);
        // A record alone knows the currents of what ships; a device of a project's own counts as a device, not yet with its current.
        if (DescriptionShelf.Shipped.FirstOrDefault(d => d.Id == DescriptionId) is not { } description) yield break;
        if (description.BusMilliamps > 0) yield return new Share(line, BusLine.Drawn, description.BusMilliamps);
        if (description.GivesMilliamps > 0) yield return new Share(line, BusLine.Given, description.GivesMilliamps);
        double all = 0;
        foreach (var (group, again) in AgainBy(description))
        {
            all += again;
            yield return new Share(group, GroupAddress.Again, (long)Math.Round(again * 1000));
        }
        if (all > 0) yield return new Share(line, BusLine.Again, (long)Math.Round(all));
    }

    /// <summary>Its individual address, or null while line or number are open.</summary>
    public IndividualAddress? AddressIn(Project project) => project.Find<BusLine>(LineId) is { } line && Number is { } number ? IndividualAddress.Of(line.Area, line.Line, number) : null;

    /// <summary>Its description, or null where the project has lost it.</summary>
    public DeviceDescription? DescriptionIn(Project project) => DescriptionShelf.Find(project, DescriptionId);

    private static readonly ConditionalWeakTable<BusDevice, DeviceValues> Known = [];

    /// <summary>How many telegrams it repeats in 1000 s though nothing happens, by the groups it sends them to.</summary>
    private IEnumerable<(RecordId Group, double Again)> AgainBy(DeviceDescription description)
    {
        if (Joins.Count == 0) yield break;
        DeviceValues values = ValuesBy(description);
        foreach (ObjectJoin join in Joins)
        {
            if (values.Form.FindObject(join.Object) is { Sends: true, Is.Again: { } setting } o && values.IsThere(o) && values.IsInUse(o.Channel) && values.SettingsOf(o.Channel).Number(setting) is > 0 and var every) yield return (join.Groups[0], 1000 / every);
        }
    }

    /// <summary>What is in force on it; null where the project has lost its description.</summary>
    public DeviceValues? ValuesIn(Project project) => DescriptionIn(project) is { } description ? ValuesBy(description) : null;

    private DeviceValues ValuesBy(DeviceDescription description)
    {
        if (Known.TryGetValue(this, out DeviceValues? known) && ReferenceEquals(known.Form, description.Form)) return known;
        DeviceValues values = DeviceValues.Of(description.Form, Settings.ToDictionary(s => s.Path, s => s.Value));
        Known.AddOrUpdate(this, values);
        return values;
    }

    /// <summary>What people call one of its channels.</summary>
    public string ChannelName(ChannelForm channel) => Uses.FirstOrDefault(u => u.Channel == channel.Key)?.Name is { Length: > 0 } name ? name : channel.Title;

    /// <summary>What people call one of its objects.</summary>
    public string SaidOf(ObjectForm o, DeviceForm? form = null) => (form is null ? o.Name.Replace("{channel} · ", "", StringComparison.Ordinal) : o.Name.Replace("{channel}", ChannelName(form.Channels[o.Channel]), StringComparison.Ordinal)) is var name && form is null ? $"‘{name}’" : name;

    /// <summary>The group addresses of an object.</summary>
    public IReadOnlyList<RecordId> GroupsOf(string path)
    {
        foreach (ObjectJoin join in Joins)
        {
            if (join.Object == path) return join.Groups;
        }
        return [];
    }

    /// <summary>It with a parameter set; an empty value, or that which it begins with, takes the setting away.</summary>
    public BusDevice With(ParameterForm parameter, string? value) => this with
    {
        Settings = [.. Settings.Where(s => s.Path != parameter.Path).Concat(value is null || value == parameter.Is.Begins ? [] : [new DeviceSetting(parameter.Path, value)]).OrderBy(s => s.Path, StringComparer.Ordinal)],
    };

    /// <summary>It with the groups of an object; none takes them away.</summary>
    public BusDevice With(string path, IReadOnlyList<RecordId> groups) => this with
    {
        Joins = [.. Joins.Where(j => j.Object != path).Concat(groups.Count == 0 ? [] : [new ObjectJoin(path, groups)]).OrderBy(j => j.Object, StringComparer.Ordinal)],
    };

    /// <summary>The device that has an individual address by design, or null.</summary>
    public static BusDevice? At(Project project, IndividualAddress address) => BusLine.At(project, address.Area, address.Line) is { } line ? project.Find<BusDevice>(project.Holder(NumberKey(line.Id, address.Device))) : null;

    /// <summary>The lowest number on a line that no device has, from 1; 0 where all are taken.</summary>
    public static int FreeNumber(Project project, RecordId line, IReadOnlySet<int>? taken = null)
    {
        for (int number = 1; number <= IndividualAddress.MostDevice; number++)
        {
            if (taken?.Contains(number) != true && project.Holder(NumberKey(line, number)) is null) return number;
        }
        return 0;
    }
}

/// <summary>Serial numbers as they are printed on labels: twelve hexadecimal digits of the device and two that check them (CRC-8 of polynomial 07 hex over the six octets), with hyphens between as people like.</summary>
public static class BusSerial
{
    /// <summary>A number without hyphens, in capitals.</summary>
    public static string Plain(string text) => text.Replace("-", "", StringComparison.Ordinal).Replace(" ", "", StringComparison.Ordinal).ToUpperInvariant();

    /// <summary>The label of a device by its six octets.</summary>
    public static string Label(ulong number)
    {
        string digits = (number & 0xFFFF_FFFF_FFFF).ToString("X12", System.Globalization.CultureInfo.InvariantCulture) + Check(number).ToString("X2", System.Globalization.CultureInfo.InvariantCulture);
        return $"{digits[..4]}-{digits[4..8]}-{digits[8..12]}-{digits[12..]}";
    }

    /// <summary>The six octets of a label.</summary>
    public static byte[] Octets(string label) => Convert.FromHexString(Plain(label)[..12]);

    /// <summary>The label of a device by six octets.</summary>
    public static string Label(ReadOnlySpan<byte> octets) => Label(Convert.ToUInt64(Convert.ToHexString(octets[..6]), 16));

    /// <summary>What is wrong with a number as it was typed, or null.</summary>
    public static string? Trouble(string text)
    {
        string plain = Plain(text);
        if (plain.Length != 14 || !plain.All(char.IsAsciiHexDigit)) return $"‘{text}’ is no serial number: it has fourteen digits 0–9 and A–F, as on the label.";
        ulong number = Convert.ToUInt64(plain[..12], 16);
        return Check(number) == Convert.ToByte(plain[12..], 16) ? null : $"‘{text}’ does not add up: one digit is wrong, or two have changed places. Read the label again.";
    }

    private static byte Check(ulong number)
    {
        byte check = 0;
        for (int octet = 5; octet >= 0; octet--)
        {
            check ^= (byte)(number >> (octet * 8));
            for (int bit = 0; bit < 8; bit++) check = (byte)((check & 0x80) != 0 ? (check << 1) ^ 0x07 : check << 1);
        }
        return check;
    }
}
