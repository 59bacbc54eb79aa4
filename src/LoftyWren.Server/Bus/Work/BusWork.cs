using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Tunnel;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Bus.Work;

/// <summary>How devices are found that are to get their addresses.</summary>
public enum FoundBy
{
    /// <summary>By the serial numbers on their labels.</summary>
    Label,
    /// <summary>By their buttons: each is pressed when it is its turn.</summary>
    Button,
}

/// <summary>Devices that get their addresses, in this order.</summary>
internal sealed record AddressOrder(IReadOnlyList<RecordId> Ids, FoundBy By);

/// <summary>Devices that are written: all of each, or only in what it differs.</summary>
internal sealed record BusSendOrder(IReadOnlyList<RecordId> Ids, bool IsFull);

/// <summary>Devices that are looked at.</summary>
internal sealed record BusLookOrder(IReadOnlyList<RecordId> Ids);

/// <summary>
/// Long work on bus devices: giving addresses, writing, looking at them. Each device is done for itself: what was stopped, or
/// failed at one, goes on with the next that is not done when it is resumed.
/// </summary>
internal sealed class BusWork(Workspace workspace, IVirtualSite site, BusLines lines, BusHistory history)
{
    private static readonly TimeSpan Patience = TimeSpan.FromMinutes(10);

    /// <summary>The jobs.</summary>
    public static JobKind<AddressOrder> AddressJob { get; } = new("busAddress", (services, who, order) => new JobWork(Make(services).Addresses(order, who), "Devices that have their address keep it; resume to go on with the others."));

    /// <inheritdoc cref="AddressJob"/>
    public static JobKind<BusSendOrder> SendJob { get; } = new("busSend", (services, who, order) => new JobWork(Make(services).Sends(order, who), "Each device has the old or the new whole; resume to go on with the others."));

    /// <inheritdoc cref="AddressJob"/>
    public static JobKind<BusLookOrder> LookJob { get; } = new("busLook", (services, who, order) => new JobWork(Make(services).Looks(order), "What was seen is kept; resume to look at the others."));

    private static BusWork Make(IServiceProvider services) => new(services.GetRequiredService<Workspace>(), services.GetRequiredService<IVirtualSite>(), services.GetRequiredService<BusLines>(), services.GetRequiredService<BusHistory>());

    private (BusDevice Device, RecordId Line, IndividualAddress Address, DeviceDescription Description) Of(RecordId id)
    {
        Project project = workspace.Project;
        BusDevice device = project.Find<BusDevice>(id) ?? throw new InvalidOperationException("A device of the work is not in the project any more. Drop the work and begin it anew.");
        if (device.LineId is not { } line || device.AddressIn(project) is not { } address) throw new InvalidOperationException($"‘{device.Name}’ has no address by design. Give it one under Bus first.");
        return (device, line, address, device.DescriptionIn(project) ?? throw new InvalidOperationException($"The bus library has lost the description of ‘{device.Name}’."));
    }

    private Func<JobContext, Task<string>> Addresses(AddressOrder order, string who)
    {
        var done = new HashSet<RecordId>();
        return async job =>
        {
            var troubles = new List<string>();
            foreach (RecordId id in order.Ids.Where(id => !done.Contains(id)))
            {
                var (device, line, address, description) = Of(id);
                job.Report(done.Count, order.Ids.Count, order.By == FoundBy.Button ? $"Press the button of ‘{device.Name}’, which becomes {address}" : $"{address} for ‘{device.Name}’");
                try
                {
                    if (order.By == FoundBy.Label)
                    {
                        string label = device.Serial ?? throw new BusRefusedException($"The label of ‘{device.Name}’ is not known. Type it, or press its button.");
                        await lines.With(line, async m => { await m.AddressBySerial(label, address, job.Stop); return 0; }, job.Stop);
                    }
                    else
                    {
                        string label = await Pressed(device, line, address, description, job, done.Count, order.Ids.Count);
                        if (device.Serial != label) Note(device.Id, label, who);
                    }
                    lines.See(id, BusState.NotConfigured);
                    site.Trail(who, $"Gave ‘{device.Name}’ the address {address}", id);
                    done.Add(id);
                }
                catch (BusRefusedException e)
                {
                    // One that is missing does not keep the others from theirs.
                    if (order.Ids.Count == 1) throw;
                    troubles.Add($"{device.Name}: {e.Message}");
                }
            }
            if (troubles.Count > 0) throw new InvalidOperationException($"{done.Count} of {order.Ids.Count} have their addresses. {string.Join(" ", troubles.Take(3))}{(troubles.Count > 3 ? $" And {troubles.Count - 3} more." : "")}");
            return order.Ids.Count == 1 ? $"{Of(order.Ids[0]).Device.Name} has the address {Of(order.Ids[0]).Address}." : $"{done.Count} devices have their addresses.";
        };
    }

    // Until exactly one is in programming mode, and is what it should be.
    private async Task<string> Pressed(BusDevice device, RecordId line, IndividualAddress address, DeviceDescription description, JobContext job, int done, int total)
    {
        long until = Environment.TickCount64 + (long)Patience.TotalMilliseconds;
        while (Environment.TickCount64 < until)
        {
            IReadOnlyList<WaitingDevice> waiting = await lines.With(line, m => m.WhoWaits(job.Stop), job.Stop);
            if (waiting.Count == 1)
            {
                return await lines.With(line, async m =>
                {
                    await m.MustBe(waiting[0].Address, description, null, job.Stop);
                    return await m.AddressByButton(address, job.Stop);
                }, job.Stop);
            }
            job.Report(done, total, waiting.Count == 0 ? $"Press the button of ‘{device.Name}’, which becomes {address}" : $"{waiting.Count} devices are in programming mode: {string.Join(", ", waiting.Select(w => w.Serial))}. Press all but that of ‘{device.Name}’ again");
            await Task.Delay(500, job.Stop);
        }
        throw new BusRefusedException($"Nobody has pressed the button of ‘{device.Name}’ for {Patience.TotalMinutes:0} minutes.");
    }

    private void Note(RecordId id, string label, string who)
    {
        Project project = workspace.Project;
        if (project.Find<BusDevice>(id) is not { } device) return;
        workspace.Apply([Edit.Of(device with { Serial = label }, project.FindEntry(id)!.Revision)], who, $"The label of ‘{device.Name}’ is {label}");
    }

    private Func<JobContext, Task<string>> Sends(BusSendOrder order, string who)
    {
        var done = new HashSet<RecordId>();
        return async job =>
        {
            var troubles = new List<string>();
            int telegrams = 0;
            foreach (RecordId id in order.Ids.Where(id => !done.Contains(id)))
            {
                var (device, line, address, description) = Of(id);
                ApplicationImage wanted = lines.Design.Of(device).Image!;
                int before = done.Count;
                void Progress(int step, int of, string what) => job.Report((before * 1000) + (step * 1000 / Math.Max(1, of)), order.Ids.Count * 1000, $"{device.Name} ({address}): {what} {step} of {of}");
                job.Report(before * 1000, order.Ids.Count * 1000, $"{device.Name} ({address})");
                try
                {
                    telegrams += await lines.With(line, m => Send(m, device, address, description, wanted, order.IsFull, Progress, job.Stop), job.Stop);
                    lines.See(id, BusState.Same, there: wanted);
                    site.Trail(who, $"Wrote ‘{device.Name}’ ({address}){(order.IsFull ? " whole" : "")}", id);
                    done.Add(id);
                }
                catch (BusRefusedException e)
                {
                    lines.See(id, BusState.Unknown);
                    if (order.Ids.Count == 1) throw;
                    troubles.Add($"{device.Name}: {e.Message}");
                }
            }
            if (troubles.Count > 0) throw new InvalidOperationException($"{done.Count} of {order.Ids.Count} devices have what is designed. {string.Join(" ", troubles.Take(3))}{(troubles.Count > 3 ? $" And {troubles.Count - 3} more." : "")}");
            return telegrams == 0 ? $"{(order.Ids.Count == 1 ? "It has" : "They have")} what is designed already; nothing was written." : $"{(order.Ids.Count == 1 ? Of(order.Ids[0]).Device.Name + " has" : $"{done.Count} devices have")} what is designed, in {telegrams} telegrams.";
        };
    }

    /// <summary>Writes one device; answers how many telegrams that took. One that has all already is not written.</summary>
    private async Task<int> Send(BusManager m, BusDevice device, IndividualAddress address, DeviceDescription description, ApplicationImage wanted, bool isFull, Action<int, int, string> progress, CancellationToken stop)
    {
        await m.MustBe(address, description, device.Serial, stop);
        await lines.Ready(m, device, address, stop);
        var (state, isSame) = await m.Has(address, wanted, description.Form, stop);
        if (isSame && !isFull) return 0;
        ApplicationImage? there = null;
        if (!isFull && state == LoadState.Loaded)
        {
            // What it had when it was written last, if it still has just that; else what it says.
            there = lines.SeenOf(device.Id).There;
            if (there is null || !(await m.Has(address, there, description.Form, stop)).IsSame) there = await m.ReadBack(address, description.Form, (step, of) => progress(step, of, "reading"), stop);
        }
        var transfer = ApplicationTransfer.Of(wanted, there, description.Form);
        await m.Transfer(address, transfer, (step, of) => progress(step, of, "writing"), stop);
        return transfer.Steps.Count;
    }

    private Func<JobContext, Task<string>> Looks(BusLookOrder order)
    {
        int done = 0, silent = 0;
        var troubles = new List<string>();
        return async job =>
        {
            for (; done < order.Ids.Count; done++)
            {
                var (device, line, address, description) = Of(order.Ids[done]);
                job.Report(done, order.Ids.Count, $"{device.Name} ({address})");
                try
                {
                    if (await lines.With(line, m => Look(m, device, address, description, job.Stop), job.Stop) == BusState.Silent) silent++;
                }
                catch (BusRefusedException e)
                {
                    // One that is locked does not keep the others from being looked at.
                    if (order.Ids.Count == 1) throw;
                    troubles.Add(e.Message);
                }
            }
            if (troubles.Count > 0) return $"{order.Ids.Count - silent - troubles.Count} of {order.Ids.Count} answer; {troubles.Count} could not be asked. {string.Join(" ", troubles.Distinct().Take(3))}";
            return silent == 0 ? $"All {order.Ids.Count} answer." : $"{order.Ids.Count - silent} of {order.Ids.Count} answer.";
        };
    }

    private async Task<BusState> Look(BusManager m, BusDevice device, IndividualAddress address, DeviceDescription description, CancellationToken stop)
    {
        if (await m.SerialAt(address, stop) is not null) await lines.Ready(m, device, address, stop);
        DeviceHealth? health = await m.Look(address, description.Form, stop);
        BusState state = BusState.Silent;
        ApplicationImage wanted = lines.Design.Of(device).Image!;
        bool isSame = false;
        if (health is not null)
        {
            history.Write(device.Id, health);
            isSame = health.State == LoadState.Loaded && (await m.Has(address, wanted, description.Form, stop)).IsSame;
            state = StateOf(health.State, isSame);
        }
        lines.See(device.Id, state, health, isSame ? wanted : null);
        return state;
    }

    private static BusState StateOf(LoadState state, bool isSame) => state switch
    {
        LoadState.Empty => BusState.NotConfigured,
        LoadState.Loading or LoadState.Broken => BusState.Interrupted,
        _ => isSame ? BusState.Same : BusState.Differs,
    };

    /// <summary>Reads a device back and says in what it is otherwise than designed.</summary>
    public async Task<IReadOnlyList<ImageDifference>> Compare(RecordId id, JobContext job)
    {
        var (device, line, address, description) = Of(id);
        ApplicationImage wanted = lines.Design.Of(device).Image!;
        return await lines.With(line, async m =>
        {
            await m.MustBe(address, description, device.Serial, job.Stop);
            await lines.Ready(m, device, address, job.Stop);
            ApplicationImage there = await m.ReadBack(address, description.Form, (step, of) => job.Report(step, Math.Max(1, of), $"Reading {step} of {of}"), job.Stop);
            var (state, _) = await m.Has(address, wanted, description.Form, job.Stop);
            lines.See(id, StateOf(state, wanted.Equals(there)), there: there);
            return wanted.DifferencesTo(there, description.Form);
        }, job.Stop);
    }
}
