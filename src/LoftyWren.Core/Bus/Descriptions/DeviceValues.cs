using LoftyWren.Core.Bus.Behaviours;

namespace LoftyWren.Core.Bus.Descriptions;

/// <summary>A question of a condition that does not hold: the parameter, what it is now, and what it would have to be.</summary>
public sealed record Unmet(string Path, string Label, string Now, string Needs, string? Proposal);

/// <summary>
/// What is in force on a device: each parameter's value as it was set where the parameter is there, else its default; which
/// parameters, pages and objects are there. Nothing that is hidden loses its value.
/// </summary>
public sealed class DeviceValues : IConditionScope
{
    private readonly string[] _inForce;
    private readonly bool[] _isThere;
    private readonly IReadOnlyDictionary<string, string> _set;

    private DeviceValues(DeviceForm form, IReadOnlyDictionary<string, string> set)
    {
        (Form, _set) = (form, set);
        _inForce = new string[form.Parameters.Count];
        _isThere = new bool[form.Parameters.Count];
        foreach (int at in form.Order)
        {
            ParameterForm p = form.Parameters[at];
            _isThere[at] = p.When?.Holds(this) ?? true;
            _inForce[at] = _isThere[at] && set.TryGetValue(p.Path, out string? value) && p.Is.Read(value).Value is { } read ? read : p.Is.Begins;
        }
    }

    /// <summary>The device unfolded.</summary>
    public DeviceForm Form { get; }

    /// <summary>What is in force under what was set, by the paths of parameters.</summary>
    public static DeviceValues Of(DeviceForm form, IReadOnlyDictionary<string, string> set) => new(form, set);

    /// <inheritdoc/>
    public string ValueOf(int parameter) => _inForce[parameter];

    /// <summary>Whether a parameter is there.</summary>
    public bool IsThere(ParameterForm parameter) => _isThere[parameter.At];

    /// <summary>Whether a page is there; one without anything on it is not.</summary>
    public bool IsThere(PageForm page) => page.When?.Holds(this) ?? true;

    /// <summary>Whether a channel is there.</summary>
    public bool IsThere(ChannelForm channel) => channel.When?.Holds(this) ?? true;

    /// <summary>Whether an object is there.</summary>
    public bool IsThere(ObjectForm o) => o.When?.Holds(this) ?? true;

    /// <summary>Whether a channel does anything: it is there, and is not set to do nothing.</summary>
    public bool IsInUse(int channel) => IsThere(Form.Channels[channel]) && !(Form.ParameterAt(channel, BehaviourKind.FunctionKey) is >= 0 and var at && _inForce[at] == BehaviourKind.Disabled);

    /// <summary>What was set, in force or not; null where nothing was.</summary>
    public string? SetOf(ParameterForm parameter) => _set.GetValueOrDefault(parameter.Path);

    /// <summary>Parameters that were set to something else than their default and are not there, so that what they say does nothing.</summary>
    public IEnumerable<ParameterForm> Idle => Form.Parameters.Where(p => !_isThere[p.At] && SetOf(p) is { } set && set != p.Is.Begins);

    /// <summary>Parameters in force that differ from their default.</summary>
    public IEnumerable<ParameterForm> Differing => Form.Parameters.Where(p => _isThere[p.At] && _inForce[p.At] != p.Is.Begins);

    /// <summary>Why something is hidden, in words, and what would have to be set; null when it is there.</summary>
    public (string Sentence, IReadOnlyList<Unmet> Needs)? WhyHidden(string label, Condition? when)
    {
        if (when is null || when.Holds(this)) return null;
        var needs = when.Leaves.Where(l => !l.Holds(this)).DistinctBy(l => (l.At, l.Relation, string.Join(',', l.Values))).Select(l =>
        {
            ParameterForm p = Form.Parameters[l.At];
            return new Unmet(p.Path, LabelOf(p), p.Is.Say(_inForce[l.At]), Say(l), l.Relation == "=" ? l.Values[0] : null);
        }).ToList();
        return ($"‘{label}’ is there when {when.Say(Say)}.", needs);
    }

    /// <summary>A question in words: the cooling system is a valve.</summary>
    private string Say(Asked asked)
    {
        ParameterForm p = Form.Parameters[asked.At];
        if (p.Is.Sort == ParameterSort.YesNo) return $"‘{p.Is.Label}’ is {asked.Relation switch { "=" => asked.Values[0], _ => asked.Values[0] == Parameters.Yes ? Parameters.No : Parameters.Yes }}";
        string values = Among(asked.Relation == "≠" ? asked.Values : asked.Values, p);
        return asked.Relation switch
        {
            "=" => $"‘{p.Is.Label}’ is {values}",
            "≠" => $"‘{p.Is.Label}’ is not {values}",
            "<" => $"‘{p.Is.Label}’ is below {values}",
            "≤" => $"‘{p.Is.Label}’ is at most {values}",
            ">" => $"‘{p.Is.Label}’ is above {values}",
            _ => $"‘{p.Is.Label}’ is at least {values}",
        };

        static string Among(IReadOnlyList<string> values, ParameterForm p) => string.Join(" or ", values.Select(v => p.Is.Choices?.FirstOrDefault(c => c.Key == v) is { } c ? $"‘{c.Label}’" : p.Is.Say(v)));
    }

    private string LabelOf(ParameterForm p) => p.Channel < 0 ? p.Is.Label! : $"{Form.Channels[p.Channel].Title} · {p.Is.Label}";

    /// <summary>What a behaviour reads: the settings of one channel.</summary>
    public SettingValues SettingsOf(int channel) => new(this, channel);
}
