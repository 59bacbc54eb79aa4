using System.Net;
using System.Net.Sockets;

namespace LoftyWren.Tests;

/// <summary>Ports and folders for servers under test; of both test projects.</summary>
internal static class TestGround
{
    // Below those that the machine gives out by itself, such as to stand-ins that open meanwhile; two test runs begin apart.
    private static int _lastPort = 20_000 + (Environment.ProcessId % 48 * 250);

    /// <summary>A port that nobody has.</summary>
    public static int FreePort()
    {
        while (true)
        {
            int port = Interlocked.Increment(ref _lastPort);
            try
            {
                using var listener = new TcpListener(IPAddress.Loopback, port);
                listener.Start();
                return port;
            }
            catch (SocketException)
            {
                // Somebody has it; the next, then.
            }
        }
    }

    /// <summary>Copies what is in a folder.</summary>
    public static void Copy(string from, string to)
    {
        foreach (string folder in Directory.GetDirectories(from, "*", SearchOption.AllDirectories)) Directory.CreateDirectory(Path.Combine(to, Path.GetRelativePath(from, folder)));
        foreach (string file in Directory.GetFiles(from, "*", SearchOption.AllDirectories)) File.Copy(file, Path.Combine(to, Path.GetRelativePath(from, file)));
    }
}
