using LoftyWren.Core.Bus.Datapoints;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Images;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Points;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Controllers;

/// <content>Points that are said or heard on a two-wire line.</content>
public sealed partial class ControllerEngine
{
    /// <summary>A point with its group: its place at the port, and how what is heard becomes its value.</summary>
    private sealed class BusTie(BusBinding binding, int at, int point, GroupAddress group, DatapointType type, bool isInput, Turning turning)
    {
        public BusBinding Binding => binding;
        public int At => at;
        public int Point => point;
        public GroupAddress Group => group;
        public DatapointType Type => type;
        public bool IsInput => isInput;
        public Turning Turning => turning;
        // Of no value that can be heard: so each is taken once.
        public double Last = double.PositiveInfinity;
    }

    private IEnumerable<BusTie> BusTies(ControllerImage image)
    {
        int at = 0;
        foreach (BusBinding binding in image.Records.OfType<BusBinding>())
        {
            if (!_index.TryGetValue(binding.PointId, out int point) || _records.Find<GroupAddress>(binding.GroupId) is not { } group || DatapointType.Find(group.Datapoint) is not { } type || Turning.Of(type, _points[point]) is not { } turning) continue;
            yield return new BusTie(binding, at++, point, group, type, _points[point].Role == PointRole.Sensor, turning);
        }
    }

    private void HearBus(long now)
    {
        for (int i = 0; i < _busTies.Length; i++)
        {
            BusTie tie = _busTies[i];
            if (!tie.IsInput) continue;
            double heard = _bus is null ? double.NaN : _bus.Heard[tie.At];
            if (BitConverter.DoubleToInt64Bits(heard) == BitConverter.DoubleToInt64Bits(tie.Last)) continue;
            tie.Last = heard;
            double value = tie.Turning.ToPoint(heard);
            Set(tie.Point, value, double.IsNaN(value) ? StatusFlags.Fault : StatusFlags.None, now);
        }
    }

    private void SayBus()
    {
        if (_bus is null) return;
        for (int i = 0; i < _busTies.Length; i++)
        {
            BusTie tie = _busTies[i];
            if (tie.IsInput) continue;
            ref readonly PinValue reading = ref _readings[tie.Point];
            _bus.Says[tie.At] = reading.IsUsable ? tie.Turning.FromPoint(reading.Value) : double.NaN;
        }
    }

    private Because ExplainBus(BusTie tie, Point point, Reading reading)
    {
        string group = $"{tie.Group.Number} ‘{tie.Group.Name}’";
        if ((reading.Status & StatusFlags.OutOfService) != 0) return Because.Of($"{point.Name} is {Say(point, reading)}: simulated, put by hand in place of what {group} says.", [point.Id, tie.Binding.Id]);
        if (_bus is null) return Because.Of($"{point.Name} has no value: {Image.Controller.Name} hangs on no two-wire line. Say on which in its dossier, and send it.", [point.Id, Image.Controller.Id]);
        if ((reading.Status & StatusFlags.Fault) != 0)
        {
            if (double.IsFinite(tie.Last)) return Because.Of($"{point.Name} has no value: {group} said {tie.Type.Say(tie.Last)} last, and none of its states ({string.Join(" · ", point.StateTexts)}) stands for that.", [point.Id, tie.Group.Id]);
            return Because.Of($"{point.Name} has no value: nothing has been heard under {group}.", [point.Id, tie.Group.Id],
                [Because.Of("See under Commission › Bus devices whether its sender lives and the line is fed, and under Line monitor whether it says anything.", weight: Weight.Note)]);
        }
        return Because.Of($"{point.Name} is {Say(point, reading)}, as {group} said last.", [point.Id, tie.Group.Id]);
    }
}
