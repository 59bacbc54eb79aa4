using LoftyWren.Server;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Safety;
using LoftyWren.Storage;
using Microsoft.AspNetCore.Connections;

ServerOptions options;
try
{
    options = ServerOptions.Parse(args);
}
catch (ArgumentException e)
{
    Console.Error.WriteLine(e.Message);
    return 2;
}
try
{
    PrivateFiles.Make(options.DataFolder);
    if (options.Restore)
    {
        foreach (string sentence in Restoring.Run(options.DataFolder, options.RestoreFrom)) Console.WriteLine(sentence);
        return 0;
    }
    if (options.SiteOnly is { } address)
    {
        await using (WebApplication site = SiteOnly.Build(address, options.DataFolder, options.SiteKeyFile))
        {
            await site.StartAsync();
            Console.WriteLine($"A virtual site is ready at {address}; its key is in {Path.GetFullPath(options.SiteKeyFile)}.");
            // Begun by a server, it goes when that goes, however that comes about.
            if (options.UntilInputEnds) _ = Task.Run(() =>
            {
                while (Console.In.Read() >= 0)
                {
                }
                site.Lifetime.StopApplication();
            });
            await site.WaitForShutdownAsync();
        }
        return 0;
    }
    await using SiteProcess? process = options.Site is { } far ? await SiteProcess.Ensure(far, Path.Combine(options.DataFolder, "site-process"), Path.GetFullPath(options.SiteKeyFile)) : null;
    await using (WebApplication app = await LoftyWrenServer.Build(options))
    {
        await app.StartAsync();
        Console.WriteLine($"Lofty Wren is ready at http://localhost:{options.Port}");
        if (app.Services.GetRequiredService<AccountDirectory>().FirstAccountCode is { } code) Console.WriteLine($"No accounts yet. Make the first one on the page with this code: {code}");
        await app.WaitForShutdownAsync();
    }
    Console.WriteLine("Lofty Wren has stopped; everything is in its files.");
    return 0;
}
catch (IOException e) when (e.InnerException is AddressInUseException)
{
    Console.Error.WriteLine($"Lofty Wren cannot start: {options.SiteOnly ?? $"port {options.Port}"} is taken by another program, perhaps another Lofty Wren. Stop that one, or choose another {(options.SiteOnly is null ? "port with --port" : "address")}.");
    return 1;
}
catch (Exception e) when (e is StorageException or InvalidOperationException or IOException or UnauthorizedAccessException)
{
    Console.Error.WriteLine($"Lofty Wren cannot start: {e.Message}");
    return 1;
}
