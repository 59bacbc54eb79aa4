namespace LoftyWren.Core.Commissioning;

/// <summary>What is wrong with a secret that somebody typed: in which box, and what to do.</summary>
public sealed record SecretTrouble(string Field, string Sentence);

/// <summary>A secret as it was typed, twice.</summary>
public sealed record TypedSecrets(string Account, string Secret, string SecretAgain, string Passphrase, string PassphraseAgain, string? SecondAccount = null, string? SecondSecret = null, string? SecondSecretAgain = null)
{
    /// <summary>The secrets they are, once nothing is wrong with them.</summary>
    public DeviceSecrets ToSecrets() => new([new DeviceAccount(Account.Trim(), Secret), .. SecondAccount is { Length: > 0 } second ? [new DeviceAccount(second.Trim(), SecondSecret!)] : Array.Empty<DeviceAccount>()], Passphrase);

    /// <inheritdoc/>
    public override string ToString() => Account;
}

/// <summary>What a controller's credentials must be. Checked before they lock anybody out.</summary>
public static class SecretRules
{
    /// <summary>The least length of a secret; of a passphrase.</summary>
    public const int LeastSecret = 10, LeastPassphrase = 12;

    private const int Most = 128;

    /// <summary>All that is wrong.</summary>
    public static IReadOnlyList<SecretTrouble> Check(TypedSecrets typed)
    {
        var wrong = new List<SecretTrouble>();
        void Say(string field, string sentence) => wrong.Add(new SecretTrouble(field, sentence));
        void Account(string field, string name)
        {
            if (name.Length is < 3 or > 32 || !name.All(c => char.IsAsciiLetterOrDigit(c) || c is '.' or '-' or '_')) Say(field, "An account is 3 to 32 letters, digits, dots or hyphens.");
            else if (name.Equals(DeviceAccount.Factory.Name, StringComparison.OrdinalIgnoreCase)) Say(field, "That is the factory's account, which is taken away at first contact. Choose another name.");
        }
        void Secret(string field, string secret, string again, int least, string noun, string account)
        {
            if (secret.Length < least) Say(field, $"A {noun} has at least {least} characters; this one has {secret.Length}.");
            else if (secret.Length > Most) Say(field, $"A {noun} has at most {Most} characters.");
            else if (secret != secret.Trim()) Say(field, $"A blank at an end of a {noun} is soon forgotten. Leave it out.");
            else if (secret.Distinct().Count() < 5) Say(field, $"This {noun} is a few characters over and over. Choose one that is harder to guess.");
            else if (secret == DeviceAccount.Factory.Secret) Say(field, "That is the factory's secret, which everybody knows. Choose another.");
            else if (account.Length > 2 && secret.Contains(account, StringComparison.OrdinalIgnoreCase)) Say(field, $"The {noun} holds the name of the account. Choose one that does not.");
            else if (secret != again) Say($"{field}Again", $"The two {noun}s differ. Type both again.");
        }
        Account("account", typed.Account.Trim());
        Secret("secret", typed.Secret, typed.SecretAgain, LeastSecret, "secret", typed.Account.Trim());
        Secret("passphrase", typed.Passphrase, typed.PassphraseAgain, LeastPassphrase, "passphrase", typed.Account.Trim());
        if (typed.Passphrase.Length > 0 && typed.Passphrase == typed.Secret) Say("passphrase", "The passphrase is the secret. Whoever knows the one would have the other; choose another.");
        if (typed.SecondAccount is not { Length: > 0 } second) return wrong;
        Account("secondAccount", second.Trim());
        if (second.Trim().Equals(typed.Account.Trim(), StringComparison.OrdinalIgnoreCase)) Say("secondAccount", "The second account has the name of the first. Choose another.");
        Secret("secondSecret", typed.SecondSecret ?? "", typed.SecondSecretAgain ?? "", LeastSecret, "secret", second.Trim());
        if (typed.SecondSecret is { Length: > 0 } secret && (secret == typed.Secret || secret == typed.Passphrase)) Say("secondSecret", "The second account has a secret of its own, so that one can be taken away without the other.");
        return wrong;
    }
}
