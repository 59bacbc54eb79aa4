using LoftyWren.Server;
using LoftyWren.Server.Accounts;
using LoftyWren.Storage;

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
    WebApplication app = await LoftyWrenServer.Build(options);
    await app.StartAsync();
    Console.WriteLine($"Lofty Wren is ready at http://localhost:{options.Port}");
    if (app.Services.GetRequiredService<AccountDirectory>().FirstAccountCode is { } code) Console.WriteLine($"No accounts yet. Make the first one on the page with this code: {code}");
    await app.WaitForShutdownAsync();
    return 0;
}
catch (Exception e) when (e is StorageException or InvalidOperationException or IOException)
{
    Console.Error.WriteLine($"Lofty Wren cannot start: {e.Message}");
    return 1;
}
