using System.Text;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Tests;
using LoftyWren.VirtualSite.Bus;
using LoftyWren.VirtualSite.Devices;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.VirtualSite.Tests;

/// <summary>A virtual site built from a project, its controllers sent, its bus devices written at the bench and hung.</summary>
internal static class Building
{
    public static Site Up(Project project, long now, int seed = 41)
    {
        var site = new Site(SiteBuilder.Build(project, new SitePlan { Seed = seed }), now);
        foreach (Controller controller in project.All<Controller>()) site.Send(project, controller);
        BusMedium bus = site.Media.OfType<BusMedium>().Single();
        var tables = FilterTables.Of(project);
        foreach (BusDevice device in project.All<BusDevice>().OrderBy(d => d.Id)) bus.Hang(BusBuilder.BoxOf(project, device, null, isWritten: true, tables)!);
        bus.Fed();
        return site;
    }

    public static void Send(this Site site, Project project, Controller controller, int piece = 512)
    {
        site.Send(controller.Id, ControllerImageBuilder.KindKey, ControllerImage.Build(project, controller).ToBytes(), piece);
    }

    public static void Send(this Site site, RecordId host, string kind, byte[] bytes, int piece = 512)
    {
        InstalledDevice installed = site.Mount(host, kind);
        for (int at = installed.BeginSend(bytes.Length, HostKinds.HashOf(bytes)); at < bytes.Length; at += piece)
            installed.Receive(at, bytes.AsSpan(at, Math.Min(piece, bytes.Length - at)));
        installed.ChangeOver(InstalledDevice.MakeReady(installed.Sent()), "technician", 0);
        site.Connect(host);
    }

    /// <summary>The engine of a controller.</summary>
    public static ControllerEngine Engine(this Site site, RecordId controller) => (ControllerEngine)site.Devices[controller].Program!;

    /// <summary>A site that takes up what another kept, over bytes.</summary>
    public static Site Again(this Site site)
    {
        SiteMemory memory = SiteMemory.FromBytes(site.Remember().ToBytes());
        var again = new Site(site.Plan, 0);
        foreach (InstalledDevice device in site.Devices.Values)
        {
            object kept = device.Program!.Remember();
            again.Mount(device.Id, device.Kind).Restart(device.ImageBytes!, System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(kept, kept.GetType(), RecordJson.Options), site.Now, device.Version, device.SentBy, device.SentAt);
        }
        again.Recall(memory);
        return again;
    }

    public static byte[] Image(Project project) => ControllerImage.Build(project, project.Find<Controller>(KilnRoom.Controller)!).ToBytes();

    /// <summary>All that can be seen of a site, as one text.</summary>
    public static string Picture(this Site site)
    {
        var text = new StringBuilder();
        foreach (var (name, value) in site.Plant.Quantities) text.Append(name).Append('=').Append(value.ToString("R")).Append('\n');
        foreach (InstalledDevice device in site.Devices.Values)
        {
            foreach (RecordId point in device.Program?.Home ?? []) text.Append(point).Append('=').Append(device.Program!.Read(point)).Append('\n');
        }
        return text.ToString();
    }
}
