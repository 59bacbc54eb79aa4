using System.Runtime.CompilerServices;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Texts;

namespace LoftyWren.Core.Bus.Descriptions;

/// <summary>A parameter of an unfolded device.</summary>
/// <param name="At">Its place in <see cref="DeviceForm.Parameters"/>.</param>
/// <param name="Path">What it is kept under: <c>output3.onDelay</c>, or its key alone.</param>
/// <param name="Page">Its page, by place; −1 where no page shows it.</param>
/// <param name="Channel">Its channel, by place; −1 for the device as a whole.</param>
/// <param name="Is">What it is: its key, label, sort, limits and choices.</param>
/// <param name="When">When it is there, its page and its channel included; null for always.</param>
public sealed record ParameterForm(int At, string Path, int Page, int Channel, ParameterDescription Is, Condition? When);

/// <summary>A page of an unfolded device.</summary>
public sealed record PageForm(string Key, string Title, int Channel, Condition? When);

/// <summary>A channel of an unfolded device.</summary>
/// <param name="Key">What it is kept under: output3.</param>
/// <param name="Title">What people call it: Output C.</param>
/// <param name="Number">Its number among those alike, from 1.</param>
/// <param name="Is">What it is.</param>
/// <param name="Behaviour">What it does.</param>
/// <param name="When">When it is there; null for always.</param>
public sealed record ChannelForm(string Key, string Title, int Number, ChannelDescription Is, BehaviourKind Behaviour, Condition? When);

/// <summary>A communication object of an unfolded device.</summary>
/// <param name="At">Its place in <see cref="DeviceForm.Objects"/>.</param>
/// <param name="Number">Its number on the device.</param>
/// <param name="Path">What it is kept under: <c>output3.switch</c>.</param>
/// <param name="Channel">Its channel, by place.</param>
/// <param name="Name">What people call it; <c>{channel}</c> stands for its channel.</param>
/// <param name="Type">Its datapoint type.</param>
/// <param name="Flags">Its flags.</param>
/// <param name="Priority">How urgent what it sends is.</param>
/// <param name="Is">What its behaviour uses it for.</param>
/// <param name="When">When it is there; null for always.</param>
public sealed record ObjectForm(int At, int Number, string Path, int Channel, string Name, DatapointType Type, string Flags, BusPriority Priority, BehaviourObject Is, Condition? When)
{
    /// <summary>Whether it takes what others say.</summary>
    public bool Hears => Flags.Contains('W', StringComparison.Ordinal) || Flags.Contains('U', StringComparison.Ordinal);

    /// <summary>Whether it says something of itself.</summary>
    public bool Sends => Flags.Contains('T', StringComparison.Ordinal);
}

/// <summary>
/// A description unfolded: every channel, page, parameter and object by itself, conditions led to the parameters that they
/// ask about, and the order in which what is in force is found. Made once for a description.
/// </summary>
public sealed class DeviceForm
{
    /// <summary>The most channels, parameters and objects of one device.</summary>
    public const int MostChannels = 128, MostParameters = 8000, MostObjects = 2000;

    private static readonly ConditionalWeakTable<DeviceDescription, DeviceForm> Made = [];

    private readonly Dictionary<string, int> _byPath = [];
    private readonly Dictionary<string, int> _objects = [], _channels = [];
    private readonly List<(string Under, string Sentence)> _troubles = [];

    private DeviceForm(DeviceDescription description)
    {
        Description = description;
        Unfold(description);
        Order = Sorted();
    }

    /// <summary>What it was made of.</summary>
    public DeviceDescription Description { get; }

    /// <summary>Its pages: those of the whole device first, then channel by channel.</summary>
    public IReadOnlyList<PageForm> Pages { get; private set; } = [];

    /// <summary>Its channels.</summary>
    public IReadOnlyList<ChannelForm> Channels { get; private set; } = [];

    /// <summary>Its parameters.</summary>
    public IReadOnlyList<ParameterForm> Parameters { get; private set; } = [];

    /// <summary>Its objects, by number.</summary>
    public IReadOnlyList<ObjectForm> Objects { get; private set; } = [];

    /// <summary>The places of parameters in an order in which each comes after those that decide whether it is there.</summary>
    internal int[] Order { get; }

    /// <summary>What is wrong with the description, and where.</summary>
    internal IReadOnlyList<(string Under, string Sentence)> Troubles => _troubles;

    /// <summary>The form of a description.</summary>
    public static DeviceForm Of(DeviceDescription description) => Made.GetValue(description, d => new DeviceForm(d));

    /// <summary>The parameter under a path, or null.</summary>
    public ParameterForm? Find(string path) => _byPath.TryGetValue(path, out int at) ? Parameters[at] : null;

    /// <summary>The object under a path, or null.</summary>
    public ObjectForm? FindObject(string path) => _objects.TryGetValue(path, out int at) ? Objects[at] : null;

    /// <summary>The place of the channel with a key, or −1.</summary>
    public int ChannelAt(string key) => _channels.GetValueOrDefault(key, -1);

    /// <summary>The place of the parameter with a key as a channel sees it: its own, else the device's; −1 where there is none.</summary>
    public int ParameterAt(int channel, string key)
    {
        if (channel >= 0 && _byPath.TryGetValue($"{Channels[channel].Key}.{key}", out int own)) return own;
        return _byPath.GetValueOrDefault(key, -1);
    }

    private void Unfold(DeviceDescription d)
    {
        var pages = new List<PageForm>();
        var channels = new List<ChannelForm>();
        var drafts = new List<(string Path, int Page, int Channel, ParameterDescription Is, List<(string? When, string Under)> Whens)>();
        var objects = new List<(ObjectForm Form, string? When, string? Above, string Under)>();
        if (d.Channels.Sum(c => (long)Math.Max(0, c.Count)) > MostChannels)
        {
            _troubles.Add((".channels", $"The device has more than {MostChannels} channels."));
            return;
        }
        // What is set for the whole device may be a setting of what its channels do.
        BehaviourKind[] behaviours = [.. d.Channels.Select(c => BehaviourKinds.Find(c.Behaviour)).OfType<BehaviourKind>().Distinct()];
        Lay(d.Pages, d.Parameters, null, -1, "", null, "", n => n);
        for (int c = 0; c < d.Channels.Count; c++)
        {
            ChannelDescription channel = d.Channels[c];
            string under = $".channels[{c}]";
            if (BehaviourKinds.Find(channel.Behaviour) is not { } kind)
            {
                _troubles.Add((under + ".behaviour", $"There is no behaviour ‘{channel.Behaviour}’. There are {string.Join(", ", BehaviourKinds.All.Select(b => b.Key))}."));
                continue;
            }
            if (channel.Count is < 1 or > 64) _troubles.Add((under + ".count", $"There are 1 to 64 channels of one sort, not {channel.Count}."));
            for (int n = 1; n <= Math.Clamp(channel.Count, 0, 64); n++)
            {
                string Told(string text) => text.Replace("{n}", $"{n}", StringComparison.Ordinal).Replace("{letter}", Letter(n), StringComparison.Ordinal);
                var form = new ChannelForm($"{channel.Key}{n}", Told(channel.Title), n, channel, kind, null);
                if (!_channels.TryAdd(form.Key, channels.Count)) _troubles.Add((under + ".key", $"Two channels are called ‘{form.Key}’."));
                channels.Add(form);
                Lay(channel.Pages, channel.Parameters, kind, channels.Count - 1, form.Key + ".", channel.When, under, Told, n == 1);
                for (int o = 0; o < channel.Objects.Count; o++)
                {
                    ObjectDescription each = channel.Objects[o];
                    string at = $"{under}.objects[{o}]";
                    if (kind.Objects.FirstOrDefault(b => b.Key == each.Key) is not { } inner)
                    {
                        if (n == 1) _troubles.Add((at, $"The behaviour ‘{kind.Key}’ has no object ‘{each.Key}’. It has {string.Join(", ", kind.Objects.Select(b => b.Key))}."));
                        continue;
                    }
                    string type = each.Type ?? inner.Type, flags = each.Flags ?? inner.Flags;
                    if (DatapointType.Find(type) is not { } datapoint)
                    {
                        if (n == 1) _troubles.Add((at, $"There is no datapoint type ‘{type}’."));
                        continue;
                    }
                    if (n == 1 && flags.FirstOrDefault(f => !"CRWTUI".Contains(f, StringComparison.Ordinal)) is not '\0' and var odd) _troubles.Add((at, $"‘{odd}’ is no flag. Flags are C, R, W, T, U and I."));
                    objects.Add((new ObjectForm(0, channel.FirstObject + ((n - 1) * channel.ObjectStep) + each.Number, $"{form.Key}.{each.Key}", channels.Count - 1, Told(each.Name ?? inner.Name), datapoint, flags, each.Priority ?? inner.Priority, inner, null), each.When ?? inner.When, channel.When, at));
                }
            }
        }
        (Pages, Channels) = (pages, channels);
        if (drafts.Count > MostParameters || objects.Count > MostObjects)
        {
            _troubles.Add(("", $"The device has {drafts.Count} parameters and {objects.Count} objects; at most {MostParameters} and {MostObjects} are taken."));
            return;
        }
        for (int i = 0; i < drafts.Count; i++)
        {
            if (!_byPath.TryAdd(drafts[i].Path, i)) _troubles.Add((drafts[i].Whens[^1].Under, $"‘{drafts[i].Is.Key}’ is there twice."));
        }
        Parameters = [.. drafts.Select((p, i) => new ParameterForm(i, p.Path, p.Page, p.Channel, p.Is, null))];
        Parameters = [.. drafts.Select((p, i) => Parameters[i] with { When = p.Whens.Select(w => Bind(w.When, p.Channel, w.Under)).Aggregate((Condition?)null, Condition.Both) })];
        Pages = [.. pages.Select(p => p with { When = p.When is null ? null : p.When.Bound(a => Lead(a, p.Channel, "")) })];
        Channels = [.. channels.Select((c, i) => c with { When = Bind(c.Is.When, i, "") })];
        Objects = [.. objects.OrderBy(o => o.Form.Number).Select((o, i) => o.Form with { At = i, When = Condition.Both(Bind(o.Above, o.Form.Channel, o.Under), Bind(o.When, o.Form.Channel, o.Under)) })];
        foreach (ObjectForm o in Objects) _objects.TryAdd(o.Path, o.At);
        foreach (var same in Objects.GroupBy(o => o.Number).Where(g => g.Count() > 1)) _troubles.Add((objects.First(o => o.Form.Path == same.Last().Path).Under, $"Two objects have the number {same.Key}: {string.Join(" and ", same.Select(o => o.Path))}."));

        void Lay(IReadOnlyList<PageDescription> laid, IReadOnlyList<ParameterDescription> own, BehaviourKind? kind, int channel, string prefix, string? above, string under, Func<string, string> told, bool isFirst = true)
        {
            var seen = new HashSet<string>();
            for (int p = 0; p < laid.Count; p++)
            {
                PageDescription page = laid[p];
                string at = $"{under}.pages[{p}]";
                Condition? when = Condition.Both(Read(above, under + ".when", isFirst), Read(page.When, at + ".when", isFirst));
                pages.Add(new PageForm(page.Key, told(page.Title), channel, when));
                for (int k = 0; k < page.Parameters.Count; k++)
                {
                    string key = page.Parameters[k];
                    ParameterDescription? mine = own.FirstOrDefault(x => x.Key == key), setting = (kind is null ? behaviours : [kind]).SelectMany(b => b.Settings).FirstOrDefault(s => s.Key == key);
                    ParameterDescription? whole = mine?.Over(setting) ?? setting;
                    if (whole is null)
                    {
                        if (isFirst) _troubles.Add(($"{at}.parameters[{k}]", $"Page ‘{page.Title}’ shows ‘{key}’, which {(kind is null ? "neither the device nor what its channels do declares" : $"neither the channel nor the behaviour ‘{kind.Key}’ declares")}."));
                        continue;
                    }
                    seen.Add(key);
                    if (isFirst) Check(whole, $"{at}.parameters[{k}]");
                    for (int i = 1; i <= Math.Clamp(whole.Repeat ?? 1, 1, 64); i++)
                    {
                        ParameterDescription one = whole.Repeat is null ? whole with { Label = told(whole.Label ?? key) } : Numbered(whole, i, told);
                        drafts.Add((prefix + one.Key, pages.Count - 1, channel, one, [(above, under + ".when"), (page.When, at + ".when"), (one.When, $"{at}.parameters[{k}]")]));
                    }
                }
            }
            for (int i = 0; i < own.Count && isFirst; i++)
            {
                if (!seen.Contains(own[i].Key)) _troubles.Add(($"{under}.parameters[{i}]", $"No page shows ‘{own[i].Key}’. Name it on one."));
            }
        }
    }

    private static ParameterDescription Numbered(ParameterDescription whole, int i, Func<string, string> told)
    {
        string On(string text) => text.Replace("{i}", $"{i}", StringComparison.Ordinal);
        return whole with { Key = On(whole.Key), Label = told(On(whole.Label ?? whole.Key)), When = whole.When is { } when ? On(when) : null };
    }

    private static string Letter(int n) => n <= 26 ? $"{(char)('A' + n - 1)}" : $"{(char)('A' + ((n - 1) / 26) - 1)}{(char)('A' + ((n - 1) % 26))}";

    private void Check(ParameterDescription p, string under)
    {
        void Wrong(string sentence) => _troubles.Add((under, sentence));
        if (p.Key.Length is < 1 or > 40 || !p.Key.Replace("{i}", "", StringComparison.Ordinal).All(char.IsAsciiLetterOrDigit)) Wrong($"‘{p.Key}’ is no key: use letters and digits.");
        if (string.IsNullOrWhiteSpace(p.Label)) Wrong($"‘{p.Key}’ needs a label.");
        if (p.Repeat is { } repeat && (repeat is < 1 or > 64 || !p.Key.Contains("{i}", StringComparison.Ordinal))) Wrong($"‘{p.Key}’ is repeated {repeat} times: 1 to 64 are taken, and its key says {{i}}.");
        if (p.Sort is null) Wrong($"‘{p.Key}’ does not say its sort.");
        else if (p.Sort == ParameterSort.Choice && (p.Choices is not { Count: > 0 } || p.Choices.Select(c => c.Key).Distinct().Count() != p.Choices.Count)) Wrong($"‘{p.Key}’ is a choice and needs choices, each with a key of its own.");
        else if (p.Least is { } least && p.Most is { } most && !(least <= most)) Wrong($"‘{p.Key}’: its least, {least}, is above its most, {most}.");
        else if ((p.Sort is ParameterSort.Number or ParameterSort.Percent or ParameterSort.Time) && (p.Least is null || p.Most is null)) Wrong($"‘{p.Key}’ needs a least and a most.");
        else if (p.Read(p.Begins).Refusal is { } refusal) Wrong($"The default of ‘{p.Key}’ cannot be: {refusal}");
    }

    private Condition? Read(string? text, string under, bool tells)
    {
        if (string.IsNullOrWhiteSpace(text)) return null;
        try
        {
            return Condition.Parse(text);
        }
        catch (SyntaxException e)
        {
            if (tells) _troubles.Add((under, $"The condition ‘{text}’ cannot be read at character {e.At + 1}: {e.Message}"));
            return null;
        }
    }

    private Condition? Bind(string? text, int channel, string under) => Read(text, under, under.Length > 0 && (channel < 0 || Channels[channel].Number == 1))?.Bound(a => Lead(a, channel, under)) is { } bound and not Fixed { Is: true } ? bound : null;

    private Condition Lead(Asked asked, int channel, string under)
    {
        int at = ParameterAt(channel, asked.Name);
        if (at >= 0)
        {
            ParameterDescription p = Parameters[at].Is;
            if (under.Length > 0 && p.Sort == ParameterSort.Choice && asked.Relation is "=" or "≠" && p.Choices is { } choices && asked.Values.FirstOrDefault(v => choices.All(c => c.Key != v)) is { } none && Setting(asked.Name)?.Choices?.Any(c => c.Key == none) != true)
                _troubles.Add((under, $"‘{asked.Name}’ has no choice ‘{none}’. It has {string.Join(", ", choices.Select(c => c.Key))}."));
            return asked with { At = at };
        }
        // What this device does not offer stands at what its behaviour begins with.
        if (Setting(asked.Name) is { } setting) return new Fixed(asked.HoldsFor(setting.Begins));
        if (under.Length > 0) _troubles.Add((under, $"The condition asks about ‘{asked.Name}’, which is no parameter here."));
        return new Fixed(false);

        ParameterDescription? Setting(string name) => channel < 0 ? null : Channels[channel].Behaviour.Setting(name);
    }

    /// <summary>Each parameter after those its condition asks about; a circle is a trouble.</summary>
    private int[] Sorted()
    {
        var order = new List<int>();
        byte[] state = new byte[Parameters.Count];
        var way = new Stack<(int At, IEnumerator<int> Next)>();
        for (int i = 0; i < Parameters.Count; i++)
        {
            if (state[i] != 0) continue;
            Enter(i);
            while (way.TryPeek(out var top))
            {
                if (top.Next.MoveNext())
                {
                    int next = top.Next.Current;
                    if (state[next] == 1) _troubles.Add(("", $"Whether ‘{Parameters[next].Path}’ is there hangs on itself, by way of ‘{Parameters[top.At].Path}’."));
                    else if (state[next] == 0) Enter(next);
                }
                else
                {
                    state[top.At] = 2;
                    order.Add(top.At);
                    way.Pop();
                }
            }
        }
        return [.. order];

        void Enter(int at)
        {
            state[at] = 1;
            way.Push((at, (Parameters[at].When?.Leaves.Select(l => l.At) ?? []).GetEnumerator()));
        }
    }
}

/// <summary>A description unfolded, as if it were part of it; what walks through records does not meet it.</summary>
public static class DescribedForm
{
    extension(DeviceDescription description)
    {
        /// <summary>It unfolded; the same for as long as the description lives.</summary>
        public DeviceForm Form => DeviceForm.Of(description);
    }
}
