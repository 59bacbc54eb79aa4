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

    /// <summary>How many may wait to have their password hashed.</summary>
    public const int LongestQueue = 24;

    /// <summary>What every failed try is told.</summary>
    public const string Wrong = "This name and password do not belong together, or there were too many tries. Check both, wait a little, and try again.";

    private const int FreeTries = 4;
    private static readonly SignInResult Failure = new(null, Wrong);
    private static readonly Lazy<string> NobodysHash = new(() => new PasswordHasher<string>().HashPassword("nobody", NewCode()));
    private readonly SemaphoreSlim _hashing = new(1);
    private readonly AddressLimit _addresses = new(clock);
    private int _waiting;
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

    /// <summary>
    /// Tries a password. After four wrong ones each further one costs twice the wait of the one before, up to an hour. Every
    /// failure has the same sentence, so that nobody learns which names exist. Hashing takes turns outside all locks, in a
    /// queue that does not grow; an address that fails too often has to wait.
    /// </summary>
    public async Task<SignInResult> Try(string name, string password, string address = "")
    {
        // By account and address together: who fails at one account keeps nobody of the same address out of another. Who tries names
        // that there are not is held back by address alone, but on this machine, where all have the same one.
        string from = $"{name.ToLowerInvariant()}|{address}";
        if (name.Length > 100 || password.Length > 200 || !_addresses.MayTry(from) || !_addresses.MayTry(address)) return Failure;
        if (Interlocked.Increment(ref _waiting) > LongestQueue)
        {
            Interlocked.Decrement(ref _waiting);
            return new SignInResult(null, "Too many people are signing in at this moment. Try again in a few seconds.");
        }
        try
        {
            await _hashing.WaitAsync();
            try
            {
                return await Task.Run(() => TryNow(name, password, from, address));
            }
            finally
            {
                _hashing.Release();
            }
        }
        finally
        {
            Interlocked.Decrement(ref _waiting);
        }
    }

    private SignInResult TryNow(string name, string password, string from, string address)
    {
        Account? account = store.Find(name);
        // The same work whether the name exists, is locked, or neither, so that time does not tell.
        bool isRight = _hasher.VerifyHashedPassword(name, account?.PasswordHash ?? NobodysHash.Value, password) != PasswordVerificationResult.Failed && account is not null;
        lock (_turn)
        {
            long now = clock.GetUtcNow().ToUnixTimeMilliseconds();
            account = store.Find(name);
            if (account is null)
            {
                if (!(System.Net.IPAddress.TryParse(address, out System.Net.IPAddress? at) && System.Net.IPAddress.IsLoopback(at))) _addresses.Failed(address);
                return Failure;
            }
            // A lock never lasts longer than its own wait, even when the clock has been put back since it was set.
            long wait = WaitAfter(account.FailedTries);
            if (account.LockedUntil > now + wait) store.Update(account = account with { LockedUntil = now + wait });
            if (account.LockedUntil > now || !isRight)
            {
                _addresses.Failed(from);
                if (account.LockedUntil <= now) store.Update(account with { FailedTries = account.FailedTries + 1, LockedUntil = now + WaitAfter(account.FailedTries + 1) });
                return Failure;
            }
            if (account.FailedTries > 0) store.Update(account with { FailedTries = 0, LockedUntil = 0 });
            return new SignInResult(account, null);
        }
    }

    /// <summary>How long an account waits after so many wrong passwords in a row, in ms.</summary>
    private static long WaitAfter(int failed) => failed < FreeTries ? 0 : (long)Math.Min(3_600_000, 2000 * Math.Pow(2, Math.Min(20, failed - FreeTries)));

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

    /// <summary>Addresses that fail: after so many in a minute an address waits for the minute to end. Bounded, however many addresses there are.</summary>
    private sealed class AddressLimit(TimeProvider clock)
    {
        private const int Most = 30, MostAddresses = 10_000;
        private readonly Dictionary<string, (long Since, int Failed)> _failed = [];
        private readonly Lock _turn = new();

        public bool MayTry(string address)
        {
            lock (_turn) return !_failed.TryGetValue(address, out var known) || known.Failed < Most || clock.GetElapsedTime(known.Since) > TimeSpan.FromMinutes(1);
        }

        public void Failed(string address)
        {
            lock (_turn)
            {
                if (_failed.Count >= MostAddresses) _failed.Clear();
                var known = _failed.GetValueOrDefault(address);
                bool isNew = known.Failed == 0 || clock.GetElapsedTime(known.Since) > TimeSpan.FromMinutes(1);
                _failed[address] = isNew ? (clock.GetTimestamp(), 1) : (known.Since, known.Failed + 1);
            }
        }
    }

    private static string NewCode() => RandomNumberGenerator.GetString("ABCDEFGHJKLMNPQRSTUVWXYZ23456789", 10);
}
