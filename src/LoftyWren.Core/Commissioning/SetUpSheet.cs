using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;

namespace LoftyWren.Core.Commissioning;

/// <summary>How a line of the set-up sheet stands.</summary>
public enum SheetState
{
    /// <summary>It is so already.</summary>
    Done,
    /// <summary>It is decided and happens when the sheet is set going.</summary>
    Ready,
    /// <summary>It is decided, and somebody should look at it.</summary>
    Look,
    /// <summary>Somebody has to say something first.</summary>
    Needs,
    /// <summary>It cannot be so; nothing can be set going.</summary>
    Blocked,
}

/// <summary>One line of the set-up sheet: what it is about, what is decided, how that stands, and why it is so.</summary>
public sealed record SheetLine(string Key, string Label, string Says, SheetState State, string Why);

/// <summary>What was seen of a controller when it was looked at.</summary>
/// <param name="Identity">Who it is.</param>
/// <param name="Fingerprint">What its certificate is.</param>
/// <param name="Remembered">What was remembered, or null.</param>
/// <param name="HasSecrets">Whether credentials for it are kept here.</param>
/// <param name="HasSecond">Whether a second account was made there.</param>
/// <param name="ClockOffset">How far its clock is off, ms.</param>
/// <param name="Settings">What it was told of itself, where that could be read.</param>
public sealed record SeenDevice(DeviceIdentity Identity, string Fingerprint, string? Remembered, bool HasSecrets, bool HasSecond, long ClockOffset, DeviceSettings? Settings);

/// <summary>
/// The set-up sheet: one page on which everything about a controller's first contact is decided by default and seen at once,
/// each line with its state and its reason.
/// </summary>
public static class SetUpSheet
{
    /// <summary>How far a clock may be off before somebody should look, ms.</summary>
    public const long ClockTolerance = 5000;

    /// <summary>The lines.</summary>
    /// <param name="project">The project.</param>
    /// <param name="controller">The controller as designed.</param>
    /// <param name="seen">What was seen of the one that hangs there; null while none was picked.</param>
    /// <param name="plan">What would be transferred.</param>
    /// <param name="startsNow">Whether its program is to run at once.</param>
    public static IReadOnlyList<SheetLine> Of(Project project, Controller controller, SeenDevice? seen, SendPlan plan, bool startsNow)
    {
        var lines = new List<SheetLine>();
        void Say(string key, string label, string says, SheetState state, string why) => lines.Add(new SheetLine(key, label, says, state, why));
        string model = Catalogue.Find(project, controller.ModelId)?.Name ?? controller.ModelId;
        if (seen is not { } s) Say("device", "Device", "none picked", SheetState.Needs, "Pick the one that hangs there from those that answer.");
        else
        {
            bool isModel = s.Identity.ModelId == controller.ModelId;
            Say("device", "Device", $"{s.Identity.Serial}, {Catalogue.Find(project, s.Identity.ModelId)?.Name ?? s.Identity.ModelId}", isModel ? SheetState.Ready : SheetState.Blocked,
                !isModel ? $"{controller.Name} is designed as {model}. Pick another device, or change the model of {controller.Name} on its panel."
                : s.Identity.IsFactory ? "It is as it came out of its box." : s.Identity.Name.Length > 0 ? $"It is called {s.Identity.Name} already." : "It was set up before.");
            Say("certificate", "Certificate", Short(s.Fingerprint), s.Remembered is null ? SheetState.Look : s.Remembered == s.Fingerprint ? SheetState.Done : SheetState.Blocked,
                s.Remembered is null ? "Met for the first time. Compare it with the label in its door if you can; it is remembered from now on."
                : s.Remembered == s.Fingerprint ? "The one that is remembered." : $"Another than is remembered ({Short(s.Remembered)}). Either the controller was exchanged, or somebody stands between. Nothing is sent to it until somebody says that it was exchanged.");
            if (s.Identity.IsFactory) Say("secrets", "Credentials", "to be given", SheetState.Needs, "The factory's are known to everybody and open nothing but this. Type an account, its secret and a passphrase; they are tried before the factory's are taken away.");
            else if (s.HasSecrets) Say("secrets", "Credentials", "kept", SheetState.Done, "They are kept here, encrypted, and were given at first contact.");
            else Say("secrets", "Credentials", "to be typed", SheetState.Needs, "It was set up from elsewhere. Type the account, the secret and the passphrase that it has.");
            if (s.Identity.IsFactory) Say("second", "Second account", "offered", SheetState.Look, "With one account alone, whoever forgets its secret is locked out. A second one for somebody else is worth having.");
            else Say("second", "Second account", s.HasSecond ? "there" : "none known", s.HasSecond ? SheetState.Done : SheetState.Look, s.HasSecond ? "It was made at first contact." : "None was made from here.");
            Say("clock", "Clock", Math.Abs(s.ClockOffset) < 1000 ? "right" : $"{Spell(s.ClockOffset)} {(s.ClockOffset < 0 ? "behind" : "ahead")}", SheetState.Ready, "It is set to the server's time, and looked at every hour from then on.");
        }
        Say("name", "Name", controller.Name, seen?.Settings?.Name == controller.Name ? SheetState.Done : SheetState.Ready, "As in the project.");
        Network(project, controller, seen, Say);
        int parts = plan.Lines.Count(l => l.Goes);
        Say("parts", "Parts", parts == 0 ? "all there" : $"{parts} to transfer, {plan.Bytes / 1024.0:N0} kB", plan.Troubles.Count > 0 ? SheetState.Blocked : parts == 0 ? SheetState.Done : SheetState.Ready,
            plan.Troubles.Count > 0 ? string.Join(" ", plan.Troubles) : "What the program needs, with all that this needs in turn. They are worked out from the project; none carries a licence.");
        if (plan.MemoryKilobytes > 0)
            Say("memory", "Memory", $"{plan.UsedKilobytes:N0} of {plan.MemoryKilobytes:N0} kB", plan.UsedKilobytes > plan.MemoryKilobytes ? SheetState.Blocked : plan.UsedKilobytes > plan.MemoryKilobytes * 0.9 ? SheetState.Look : SheetState.Ready, $"What {model} has for loader, parts and application.");
        Say("starts", "Start now", startsNow ? "yes" : "no", SheetState.Ready, startsNow ? "Its outputs follow its program once it has started. See that nobody works at what it drives." : "It is made ready and left standing; let its program go on from its state when that is safe.");
        Say("power", "Start after power", controller.StartsAfterPower ? "yes" : "no", controller.StartsAfterPower ? SheetState.Ready : SheetState.Look,
            controller.StartsAfterPower ? "Its program starts by itself when the supply comes back." : "Its program stays down after a power cut until somebody starts it. If that is not meant, let it start.");
        return lines;
    }

    private static void Network(Project project, Controller controller, SeenDevice? seen, Action<string, string, string, SheetState, string> say)
    {
        if (controller.Address is not { } address)
        {
            if (NetworkSettings.NextFree(project) is { } free) say("network", "Address", $"{free.Address}/{free.Prefix}", SheetState.Ready, "Nothing was decided: the next free one beside the other controllers. It is written into the project when the sheet is set going.");
            else say("network", "Address", "none free", SheetState.Blocked, "The network of the other controllers is full. Give this one an address in another.");
        }
        else if (NetworkSettings.RouterTrouble(address, controller.PrefixLength, controller.Router) is { } trouble) say("network", "Address", $"{address}/{controller.PrefixLength}", SheetState.Blocked, $"With this address, {trouble}. Correct one of them.");
        else
        {
            bool isThere = seen?.Settings is { } s && (s.Address, s.PrefixLength, s.Router) == (address, controller.PrefixLength, controller.Router);
            say("network", "Address", $"{address}/{controller.PrefixLength}{(controller.Router is { } router ? $", router {router}" : "")}", isThere ? SheetState.Done : SheetState.Ready, "As in the project; no other controller has it.");
        }
    }

    /// <summary>The beginning of a fingerprint, as people compare it.</summary>
    public static string Short(string fingerprint) => string.Join(' ', Enumerable.Range(0, Math.Min(8, fingerprint.Length / 4)).Select(i => fingerprint.Substring(i * 4, 4)));

    private static string Spell(long milliseconds)
    {
        long seconds = Math.Abs(milliseconds) / 1000;
        return seconds < 120 ? $"{seconds} s" : seconds < 7200 ? $"{seconds / 60} min" : seconds < 172_800 ? $"{seconds / 3600} h" : $"{seconds / 86_400} days";
    }
}
