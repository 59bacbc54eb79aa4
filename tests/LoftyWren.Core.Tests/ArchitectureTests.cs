using System.Reflection;
using System.Text.RegularExpressions;

namespace LoftyWren.Core.Tests;

/// <summary>References run downward only, and the core stays free of files, sockets, SQL and the machine's clock.</summary>
public partial class ArchitectureTests
{
    private static readonly string Source = Path.Combine(Root(), "src");

    [Theory]
    [InlineData("LoftyWren.Core")]
    [InlineData("LoftyWren.VirtualSite", "LoftyWren.Core")]
    [InlineData("LoftyWren.Storage", "LoftyWren.Core")]
    [InlineData("LoftyWren.Formats", "LoftyWren.Core")]
    [InlineData("LoftyWren.Protocols", "LoftyWren.Core")]
    [InlineData("LoftyWren.Server", "LoftyWren.Core", "LoftyWren.Formats", "LoftyWren.Protocols", "LoftyWren.Storage", "LoftyWren.VirtualSite")]
    public void References_run_downward_only(string project, params string[] allowed)
    {
        string text = File.ReadAllText(Path.Combine(Source, project, $"{project}.csproj"));
        Assert.Equal(allowed.Order(), Reference().Matches(text).Select(m => m.Groups[1].Value).Order());
    }

    [Fact]
    public void Every_project_is_known_to_this_test() =>
        Assert.Equal(["LoftyWren.Core", "LoftyWren.Formats", "LoftyWren.Protocols", "LoftyWren.Server", "LoftyWren.Storage", "LoftyWren.VirtualSite"], Directory.GetDirectories(Source).Select(Path.GetFileName).Order());

    [Fact]
    public void The_core_reads_no_clock_no_file_no_socket_and_no_database()
    {
        foreach (AssemblyName name in typeof(Core.Projects.Project).Assembly.GetReferencedAssemblies())
            Assert.DoesNotMatch("Sqlite|AspNetCore|Sockets|Http", name.Name!);
        foreach (string folder in new[] { "LoftyWren.Core", "LoftyWren.VirtualSite" })
        {
            foreach (string file in Directory.GetFiles(Path.Combine(Source, folder), "*.cs", SearchOption.AllDirectories).Where(f => !f.Contains("/obj/")))
                Assert.False(Forbidden().IsMatch(File.ReadAllText(file)), $"{file} uses {Forbidden().Match(File.ReadAllText(file))}");
        }
    }

    [Fact]
    public void No_folder_is_named_after_a_kind_of_class()
    {
        string[] wrong = ["Models", "Services", "Managers", "Helpers", "Utils", "Common"];
        Assert.DoesNotContain(Directory.GetDirectories(Root(), "*", SearchOption.AllDirectories).Where(d => !d.Contains("node_modules") && !d.Contains("/.git/")).Select(Path.GetFileName), name => wrong.Contains(name, StringComparer.OrdinalIgnoreCase));
    }

    private static string Root()
    {
        string folder = AppContext.BaseDirectory;
        while (!File.Exists(Path.Combine(folder, "LoftyWren.slnx"))) folder = Path.GetDirectoryName(folder)!;
        return folder;
    }

    [GeneratedRegex("ProjectReference Include=\"[^\"]*/(LoftyWren\\.\\w+)\\.csproj\"")]
    private static partial Regex Reference();

    [GeneratedRegex(@"DateTime(Offset)?\.(Utc)?Now|SystemClock|Stopwatch|File\.(Read|Write|Open)|new Random\(\)|Environment\.TickCount")]
    private static partial Regex Forbidden();
}
