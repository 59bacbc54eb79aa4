using System.Security.Cryptography;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Identity;

namespace LoftyWren.Server.Accounts;

/// <summary>What came of a try to sign in: an account, or a sentence that says why not.</summary>
public sealed record SignInResult(Account? Account, string? Why);

/// <summary>Accounts at work: signing in with growing delays after wrong passwords, making accounts, changing passwords.</summary>
public sealed class AccountDirectory(AccountStore store, TimeProvider clock)
{
    /// <summary>The shortest password.</summary>
    public const int ShortestPassword = 8;

    private const int FreeTries = 4;
    private readonly PasswordHasher<string> _hasher = new();
    private readonly Lock _turn = new();

    /// <summary>The code that makes the first account of an empty installation; null once used.</summary>
    public string? FirstAccountCode { get; private set; } = store.IsEmpty ? NewCode() : null;

    /// <summary>Whether the demo accounts are offered on the sign-in page.</summary>
    public bool OffersDemo { get; private set; }

    /// <summary>All accounts.</summary>
    public IReadOnlyList<Account> All() => store.All();

    /// <summary>The account if its stamp is still this one: whether a session goes on.</summary>
    public Account? WithStamp(string? name, string? stamp) => name is not null && store.Find(name) is { } account && account.Stamp == stamp ? account : null;

    /// <summary>Makes the demo accounts, once.</summary>
    public void AddDemo()
    {
        OffersDemo = true;
        FirstAccountCode = null;
        foreach (var (name, role) in new[] { ("engineer", Role.Engineer), ("administrator", Role.Administrator), ("technician", Role.Technician), ("operator", Role.Operator), ("viewer", Role.Viewer) })
        {
            if (store.Find(name) is null) store.Add(Make(name, "saltmarsh", role));
        }
    }

    /// <summary>Tries a password. After four wrong ones each further one costs twice the wait of the one before, up to an hour.</summary>
    public SignInResult Try(string name, string password)
    {
        lock (_turn)
        {
            long now = clock.GetUtcNow().ToUnixTimeMilliseconds();
            Account? account = store.Find(name);
            if (account is null)
            {
                // The same work as for a name that exists, so that time does not tell which names do.
                _hasher.HashPassword(name, password);
                return new SignInResult(null, "This name and password do not belong together.");
            }
            if (account.LockedUntil > now) return new SignInResult(null, $"Too many wrong passwords. Try again in {Math.Ceiling((account.LockedUntil - now) / 1000.0)} s.");
            if (_hasher.VerifyHashedPassword(name, account.PasswordHash, password) == PasswordVerificationResult.Failed)
            {
                int failed = account.FailedTries + 1;
                long wait = failed < FreeTries ? 0 : (long)Math.Min(3_600_000, 2000 * Math.Pow(2, failed - FreeTries));
                store.Update(account with { FailedTries = failed, LockedUntil = now + wait });
                return new SignInResult(null, wait == 0 ? "This name and password do not belong together." : $"This name and password do not belong together. Next try in {wait / 1000} s.");
            }
            if (account.FailedTries > 0) store.Update(account with { FailedTries = 0, LockedUntil = 0 });
            return new SignInResult(account, null);
        }
    }

    /// <summary>Makes the first account, an administrator, with the code that was printed at the start.</summary>
    public SignInResult MakeFirst(string code, string name, string password)
    {
        lock (_turn)
        {
            if (FirstAccountCode is null) return new SignInResult(null, "This installation has accounts already. Sign in.");
            if (!CryptographicOperations.FixedTimeEquals(System.Text.Encoding.UTF8.GetBytes(code.Trim().ToUpperInvariant()), System.Text.Encoding.UTF8.GetBytes(FirstAccountCode)))
                return new SignInResult(null, "This is not the code that was printed when the program started. Look at its window.");
            if (Refuse(name, password) is { } why) return new SignInResult(null, why);
            Account account = Make(name, password, Role.Administrator);
            store.Add(account);
            FirstAccountCode = null;
            return new SignInResult(account, null);
        }
    }

    /// <summary>Makes an account; answers why not, or null.</summary>
    public string? Add(string name, string password, Role role) =>
        Refuse(name, password) ?? (store.Add(Make(name, password, role)) ? null : $"There is already an account called ‘{name}’.");

    /// <summary>Changes a password and ends every session of the account; answers why not, or null.</summary>
    public string? ChangePassword(string name, string password)
    {
        if (store.Find(name) is not { } account) return $"There is no account called ‘{name}’.";
        if (Refuse(name, password) is { } why) return why;
        store.Update(account with { PasswordHash = _hasher.HashPassword(name, password), Stamp = NewCode(), FailedTries = 0, LockedUntil = 0 });
        return null;
    }

    private static string? Refuse(string name, string password)
    {
        if (name.Length is < 2 or > 40 || name.Any(c => !char.IsAsciiLetterOrDigit(c) && c is not ('.' or '-' or '_'))) return "A name has 2 to 40 letters, figures, points, hyphens or underscores.";
        if (password.Length is < ShortestPassword or > 200) return $"A password has at least {ShortestPassword} characters.";
        return password.Equals(name, StringComparison.OrdinalIgnoreCase) ? "A password must differ from the name." : null;
    }

    private Account Make(string name, string password, Role role) => new(name, role, _hasher.HashPassword(name, password), NewCode(), 0, 0);

    private static string NewCode() => RandomNumberGenerator.GetString("ABCDEFGHJKLMNPQRSTUVWXYZ23456789", 10);
}
