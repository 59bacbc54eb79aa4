using System.Text;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Tests;
using LoftyWren.VirtualSite.Controllers;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.VirtualSite.Tests;

/// <summary>A virtual site built from a project, its controller sent.</summary>
internal static class Building
{
    public static Site Up(Project project, long now, int seed = 41)
    {
        var site = new Site(SiteBuilder.Build(project, new SitePlan { Seed = seed }), now);
        foreach (Controller controller in project.All<Controller>()) site.Send(project, controller);
        return site;
    }

    public static void Send(this Site site, Project project, Controller controller, int piece = 512)
    {
        byte[] bytes = ControllerImage.Build(project, controller).ToBytes();
        InstalledController installed = site.Mount(controller.Id);
        for (int at = installed.BeginSend(bytes.Length, ControllerImage.HashOf(bytes)); at < bytes.Length; at += piece)
            installed.Receive(at, bytes.AsSpan(at, Math.Min(piece, bytes.Length - at)));
        installed.ChangeOver(InstalledController.MakeReady(installed.Sent()), "technician", 0);
        site.Connect();
    }

    public static byte[] Image(Project project) => ControllerImage.Build(project, project.Find<Controller>(KilnRoom.Controller)!).ToBytes();

    /// <summary>All that can be seen of a site, as one text.</summary>
    public static string Picture(this Site site)
    {
        var text = new StringBuilder();
        foreach (var (name, value) in site.Plant.Quantities) text.Append(name).Append('=').Append(value.ToString("R")).Append('\n');
        foreach (InstalledController controller in site.Controllers.Values)
        {
            foreach (var point in controller.Engine?.Points ?? []) text.Append(point.Id).Append('=').Append(controller.Engine!.Read(point.Id)).Append('\n');
        }
        return text.ToString();
    }
}
