using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Images;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Commissioning;
using Microsoft.Data.Sqlite;

namespace LoftyWren.Server.Tests.Commissioning;

/// <summary>Whatever breaks on the way to a controller, at whichever step: a whole program runs, nobody is locked out, and what was asked for is done when it is asked again.</summary>
public abstract class ContactEndurance
{
    /// <summary>What may break: the connection, the supply, the process with the site, its disk. Each puts all right again.</summary>
    protected enum Fault
    {
        Link,
        Power,
        Process,
        Disk,
        Stopped,
    }

    private static void Sql(Workbench bench, string sql)
    {
        using var connection = new SqliteConnection($"Data Source={bench.SiteFile}");
        connection.Open();
        using SqliteCommand command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    private static void Break(Workbench bench, Fault fault, CancellationTokenSource stop)
    {
        if (fault == Fault.Link) bench.Host.SetLink("test", "cut", Workbench.Controller, new LinkQuality(10_000_000, 100, 0));
        else if (fault == Fault.Power) bench.Host.Order("test", "off", Workbench.Controller, DeviceOrder.PowerOff);
        else if (fault == Fault.Disk) Sql(bench, "CREATE TRIGGER full BEFORE INSERT ON kept BEGIN SELECT RAISE(ABORT, 'database or disk is full'); END");
        else stop.Cancel();
    }

    private static void Mend(Workbench bench, Fault fault)
    {
        if (fault == Fault.Link) bench.Host.SetLink("test", "mended", Workbench.Controller, new LinkQuality(10_000_000, 0, 0));
        else if (fault == Fault.Power)
        {
            bench.Host.Order("test", "on", Workbench.Controller, DeviceOrder.PowerOn);
            bench.Host.RunAhead(bench.Host.Pulse().Now + 30_000);
        }
        else if (fault == Fault.Disk) Sql(bench, "DROP TRIGGER full");
        else if (fault == Fault.Process) bench.Kill();
    }

    /// <summary>
    /// At every frame of a send of a new runtime, one after the other, something breaks: until it is mended and afterwards the
    /// controller has a whole program, the old with its parts or the new with its; and what was asked for is done when it is asked again.
    /// </summary>
    protected static async Task Breaks(Fault fault)
    {
        using var bench = new Workbench();
        bench.Runtime("3.3");
        await bench.SetUp();
        string runtime = "3.3";
        int frames = await Frames(bench, () => Swap(bench, ref runtime));
        // The connection is cut at each; of the other faults every other one is enough outside of a soak.
        bool isThorough = fault == Fault.Link || Environment.GetEnvironmentVariable("LOFTY_WREN_SOAK") is not null;
        // The pieces of a part are alike: of long rows of them every hundred-and-fiftieth, of what stands around them each.
        int[] steps = [.. Enumerable.Range(1, frames).Where(n => n <= 12 || n > frames - 12 || n % 150 == 0).Where(n => isThorough || n % 2 == (int)fault % 2)];
        foreach (int step in steps)
        {
            string oldHash = bench.Device.Hash, oldRuntime = bench.Device.Door!.Parts.Single(p => p.Key == "kernel").Version;
            Swap(bench, ref runtime);
            int seen = 0;
            using var stop = new CancellationTokenSource();
            bench.Host.Carrying = _ =>
            {
                if (Interlocked.Increment(ref seen) == step) Break(bench, fault, stop);
            };
            bool isDone = false;
            try
            {
                using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop.Token);
                patience.CancelAfter(TimeSpan.FromSeconds(2));
                await bench.Sending().Send(new SendOrder(Workbench.Controller), "technician", Workbench.Job(stop: patience.Token));
                isDone = true;
            }
            catch (Exception e) when (e is InvalidOperationException or ContactLostException or OperationCanceledException)
            {
                // It says so; what counts is what runs.
            }
            bench.Host.Carrying = null;
            // Whoever hung up just after the last word has said it: it is heard in a moment.
            if (fault == Fault.Stopped) await Task.Delay(30);
            Whole(bench, oldHash, oldRuntime, runtime, $"{fault} at {step} of {frames}");
            if (seen >= step) Mend(bench, fault);
            bench.Host.RunAhead(bench.Host.Pulse().Now + 120_000);
            Whole(bench, oldHash, oldRuntime, runtime, $"{fault} at {step} of {frames}, mended");
            Assert.Equal(DevicePhase.Running, bench.Device.Life.Phase);
            if (!isDone) await bench.Sending().Send(new SendOrder(Workbench.Controller), "technician", Workbench.Job());
            Assert.Equal((bench.DesignHash, runtime), (bench.Device.Hash, bench.Device.Door!.Parts.Single(p => p.Key == "kernel").Version));
        }
    }

    private static void Swap(Workbench bench, ref string runtime)
    {
        runtime = runtime == "3.3" ? "3.4" : "3.3";
        bench.Runtime(runtime);
    }

    private static async Task<int> Frames(Workbench bench, Action change)
    {
        int frames = 0;
        change();
        bench.Host.Carrying = _ => Interlocked.Increment(ref frames);
        await bench.Sending().Send(new SendOrder(Workbench.Controller), "technician", Workbench.Job());
        bench.Host.Carrying = null;
        return frames;
    }

    private static void Whole(Workbench bench, string oldHash, string oldRuntime, string newRuntime, string where)
    {
        var device = bench.Device;
        string kernel = device.Door!.Parts.Single(p => p.Key == "kernel").Version;
        Assert.True((device.Hash == oldHash && kernel == oldRuntime) || (device.Hash == bench.DesignHash && kernel == newRuntime), $"{where}: {kernel} with {device.Hash[..8]}");
        Assert.Equal(device.Hash, HostKinds.HashOf(device.ImageBytes));
        // All software parts are of one runtime, whichever.
        Assert.Single(device.Door.Parts.Where(p => p.Layer == PartLayer.Runtime && p.Key != "modules").Select(p => p.Version).Distinct());
    }
}

/// <inheritdoc/>
public class LinkEnduranceTests : ContactEndurance
{
    [Fact]
    public Task At_whichever_step_a_whole_program_runs() => Breaks(Fault.Link);
}

/// <inheritdoc/>
public class PowerEnduranceTests : ContactEndurance
{
    [Fact]
    public Task At_whichever_step_a_whole_program_runs() => Breaks(Fault.Power);
}

/// <inheritdoc/>
public class ProcessEnduranceTests : ContactEndurance
{
    [Fact]
    public Task At_whichever_step_a_whole_program_runs() => Breaks(Fault.Process);
}

/// <inheritdoc/>
public class DiskEnduranceTests : ContactEndurance
{
    [Fact]
    public Task At_whichever_step_a_whole_program_runs() => Breaks(Fault.Disk);
}

/// <inheritdoc/>
public class StopEnduranceTests : ContactEndurance
{
    [Fact]
    public Task At_whichever_step_a_whole_program_runs() => Breaks(Fault.Stopped);
}

/// <summary>A first contact that breaks anywhere.</summary>
public class FirstContactEnduranceTests
{
    [Fact]
    public async Task A_first_contact_that_breaks_anywhere_locks_nobody_out_and_is_finished_when_asked_again()
    {
        // A question and its answer are two frames: each question is one step.
        for (int step = 1; step < 26; step += Environment.GetEnvironmentVariable("LOFTY_WREN_SOAK") is null ? 2 : 1)
        {
            using var bench = new Workbench();
            SetUpOrder order = await bench.Met(bench.Hang());
            bench.Contacts.Type(Workbench.Controller, Workbench.Secrets);
            int seen = 0;
            bench.Host.Carrying = _ =>
            {
                if (Interlocked.Increment(ref seen) == step) bench.Host.SetLink("test", "cut", Workbench.Controller, new LinkQuality(10_000_000, 100, 0));
            };
            using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(1));
            await Assert.ThrowsAnyAsync<Exception>(() => bench.Sending().SetUp(order, "technician", Workbench.Job(stop: patience.Token)));
            bench.Host.Carrying = null;
            bench.Host.SetLink("test", "mended", Workbench.Controller, new LinkQuality(10_000_000, 0, 0));
            await bench.Sending().SetUp(order, "technician", Workbench.Job());
            Assert.Equal(bench.DesignHash, bench.Device.Hash);
            await using ContactClient client = await bench.Contacts.Open(bench.Designed, default);
        }
    }
}
