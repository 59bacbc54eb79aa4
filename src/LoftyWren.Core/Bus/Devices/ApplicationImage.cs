using System.Buffers.Binary;
using System.Text;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Bus.Devices;

/// <summary>An object that takes part in a group: the group by its place in the table, the object by its number.</summary>
public readonly record struct ObjectTie(int Group, int Object);

/// <summary>
/// All that is written into a bus device: the parameters that are not as they begin, by their places in the device's form and
/// as they are kept; the groups that it knows; which object takes part in which, of each object first the one it sends to.
/// A coupler has no ties; its groups are those that it lets through by its filter table.
/// </summary>
public sealed record ApplicationImage(IReadOnlyDictionary<int, string> Settings, IReadOnlyList<GroupNumber> Groups, IReadOnlyList<ObjectTie> Ties)
{
    /// <summary>What is in a device that was never written: every parameter as it begins, no group.</summary>
    public static ApplicationImage Empty { get; } = new(new Dictionary<int, string>(), [], []);

    /// <summary>What a device is to have; null where the project has lost its description.</summary>
    /// <param name="project">The project.</param>
    /// <param name="device">The device.</param>
    /// <param name="tables">What couplers let through; worked out where it is not given.</param>
    public static ApplicationImage? Of(Project project, BusDevice device, FilterTables? tables = null)
    {
        if (device.DescriptionIn(project) is not { } description || device.ValuesIn(project) is not { } values) return null;
        var settings = values.Differing.ToDictionary(p => p.At, p => values.ValueOf(p.At));
        if (description.Role == LineRole.Coupler) return new ApplicationImage(settings, (tables ?? FilterTables.Of(project)).Of(device), []);
        var joins = values.Form.Objects.Where(values.IsThere).Select(o => (Object: o, Groups: device.GroupsOf(o.Path).Select(id => project.Find<GroupAddress>(id)).OfType<GroupAddress>().Select(g => g.Number).ToList())).Where(j => j.Groups.Count > 0).ToList();
        GroupNumber[] groups = [.. joins.SelectMany(j => j.Groups).Distinct().Order()];
        var places = groups.Select((g, i) => (g, i)).ToDictionary(x => x.g, x => x.i);
        return new ApplicationImage(settings, groups, [.. joins.SelectMany(j => j.Groups.Select(g => new ObjectTie(places[g], j.Object.Number)))]);
    }

    /// <summary>What is in force on a device that has it.</summary>
    public DeviceValues ValuesOn(DeviceForm form) => DeviceValues.Of(form, Settings.Where(s => s.Key < form.Parameters.Count).ToDictionary(s => form.Parameters[s.Key].Path, s => s.Value));

    /// <summary>The groups of its objects by their paths, of each first the one it sends to.</summary>
    public IEnumerable<(string Object, IReadOnlyList<GroupNumber> Groups)> JoinsOn(DeviceForm form)
    {
        var numbers = form.Objects.ToDictionary(o => o.Number, o => o.Path);
        return Ties.Where(t => numbers.ContainsKey(t.Object) && t.Group >= 0 && t.Group < Groups.Count).GroupBy(t => t.Object).Select(g => (numbers[g.Key], (IReadOnlyList<GroupNumber>)[.. g.Select(t => Groups[t.Group])]));
    }

    /// <summary>
    /// A sum over all of it, by which both ends know that they have the same: CRC-32 (ISO 3309) over settings by place, groups
    /// and ties, each as it goes over the line.
    /// </summary>
    public uint Check(DeviceForm form)
    {
        var all = new List<byte>();
        Span<byte> two = stackalloc byte[2];
        foreach (var (at, value) in Settings.OrderBy(s => s.Key))
        {
            BinaryPrimitives.WriteUInt16BigEndian(two, (ushort)at);
            all.AddRange(two);
            all.AddRange(at < form.Parameters.Count ? ParameterWire.Write(form.Parameters[at].Is, value) : Encoding.UTF8.GetBytes(value));
        }
        foreach (GroupNumber group in Groups)
        {
            BinaryPrimitives.WriteUInt16BigEndian(two, group.Raw);
            all.AddRange(two);
        }
        foreach (ObjectTie tie in Ties) all.AddRange(ParameterWire.Write(tie));
        uint crc = 0xFFFF_FFFF;
        foreach (byte octet in all)
        {
            crc ^= octet;
            for (int bit = 0; bit < 8; bit++) crc = (crc >> 1) ^ ((crc & 1) != 0 ? 0xEDB8_8320u : 0);
        }
        return ~crc;
    }

    /// <summary>In what it is otherwise than another, in words: parameter by parameter, object by object.</summary>
    public IReadOnlyList<ImageDifference> DifferencesTo(ApplicationImage there, DeviceForm form)
    {
        var list = new List<ImageDifference>();
        foreach (int at in Settings.Keys.Union(there.Settings.Keys).Order())
        {
            if (at >= form.Parameters.Count) continue;
            ParameterForm p = form.Parameters[at];
            string mine = Settings.GetValueOrDefault(at, p.Is.Begins), other = there.Settings.GetValueOrDefault(at, p.Is.Begins);
            if (mine != other) list.Add(new ImageDifference(p.Path, p.Channel < 0 ? p.Is.Label! : $"{form.Channels[p.Channel].Title} · {p.Is.Label}", p.Is.Say(mine), p.Is.Say(other)));
        }
        var here = JoinsOn(form).ToDictionary(j => j.Object, j => j.Groups);
        var joined = there.JoinsOn(form).ToDictionary(j => j.Object, j => j.Groups);
        foreach (ObjectForm o in form.Objects)
        {
            IReadOnlyList<GroupNumber> mine = here.GetValueOrDefault(o.Path, []), other = joined.GetValueOrDefault(o.Path, []);
            if (!mine.SequenceEqual(other)) list.Add(new ImageDifference(o.Path, o.Name.Replace("{channel}", form.Channels[o.Channel].Title, StringComparison.Ordinal), Say(mine), Say(other)));
        }
        if (form.Objects.Count == 0 && !Groups.SequenceEqual(there.Groups)) list.Add(new ImageDifference("", "Groups let through", $"{Groups.Count}", $"{there.Groups.Count}"));
        return list;

        static string Say(IReadOnlyList<GroupNumber> groups) => groups.Count == 0 ? "nothing" : string.Join(", ", groups);
    }

    /// <inheritdoc/>
    public bool Equals(ApplicationImage? other) => other is not null && Settings.Count == other.Settings.Count && Settings.All(s => other.Settings.TryGetValue(s.Key, out string? value) && value == s.Value) && Groups.SequenceEqual(other.Groups) && Ties.SequenceEqual(other.Ties);

    /// <inheritdoc/>
    public override int GetHashCode() => HashCode.Combine(Settings.Count, Groups.Count, Ties.Count);
}

/// <summary>A parameter or object in which two images differ, with what each says.</summary>
public sealed record ImageDifference(string Path, string Label, string Designed, string There);

/// <summary>How values of parameters and ties go over the line.</summary>
public static class ParameterWire
{
    /// <summary>How many octets a value takes, how many a piece of a text, and how many pieces a text has at most.</summary>
    public const int ValueOctets = 8, PieceOctets = 10, MostPieces = 16;

    /// <summary>A value: a number, yes as 1, a choice by its place as a double; a text as its letters.</summary>
    public static byte[] Write(ParameterDescription parameter, string value)
    {
        if (parameter.Sort == ParameterSort.Text)
        {
            byte[] letters = Encoding.UTF8.GetBytes(value);
            return letters.Length <= MostPieces * PieceOctets ? letters : letters[..(MostPieces * PieceOctets)];
        }
        double number = parameter.Sort switch
        {
            ParameterSort.Choice => Math.Max(0, parameter.Choices!.ToList().FindIndex(c => c.Key == value)),
            ParameterSort.YesNo => value == Parameters.Yes ? 1 : 0,
            _ => Parameters.Number(value) ?? 0,
        };
        byte[] octets = new byte[ValueOctets];
        BinaryPrimitives.WriteDoubleBigEndian(octets, number);
        return octets;
    }

    /// <summary>The value that octets stand for as it is kept; null where the parameter cannot have it.</summary>
    public static string? Read(ParameterDescription parameter, ReadOnlySpan<byte> octets)
    {
        if (parameter.Sort == ParameterSort.Text) return parameter.Read(Encoding.UTF8.GetString(octets).TrimEnd('\0')).Value;
        if (octets.Length < ValueOctets) return null;
        double number = BinaryPrimitives.ReadDoubleBigEndian(octets);
        return parameter.Sort switch
        {
            ParameterSort.Choice => number >= 0 && number < parameter.Choices!.Count ? parameter.Choices[(int)number].Key : null,
            ParameterSort.YesNo => number is 0 or 1 ? number == 1 ? Parameters.Yes : Parameters.No : null,
            _ => double.IsFinite(number) ? parameter.Read(Parameters.Write(number)).Value : null,
        };
    }

    /// <summary>A tie: the place of the group from 1, and the number of the object.</summary>
    public static byte[] Write(ObjectTie tie)
    {
        byte[] octets = new byte[4];
        BinaryPrimitives.WriteUInt16BigEndian(octets, (ushort)(tie.Group + 1));
        BinaryPrimitives.WriteUInt16BigEndian(octets.AsSpan(2), (ushort)tie.Object);
        return octets;
    }

    /// <summary>The tie that four octets stand for.</summary>
    public static ObjectTie ReadTie(ReadOnlySpan<byte> octets) => new(BinaryPrimitives.ReadUInt16BigEndian(octets) - 1, BinaryPrimitives.ReadUInt16BigEndian(octets[2..]));
}
