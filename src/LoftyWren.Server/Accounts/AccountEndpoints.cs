using System.Security.Claims;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Accounts;

/// <summary>Who is signed in, or what the sign-in page should offer.</summary>
public sealed record Me(string? Name, Role? Role, bool NeedsFirstAccount, bool OffersDemo);

/// <summary>A name and a password.</summary>
public sealed record SignInRequest(string Name, string Password);

/// <summary>The first account of an empty installation.</summary>
public sealed record FirstAccountRequest(string Code, string Name, string Password);

/// <summary>A new account.</summary>
public sealed record NewAccountRequest(string Name, string Password, Role Role);

/// <summary>A new password for oneself, with the old one.</summary>
public sealed record ChangePasswordRequest(string Old, string New);

/// <summary>An account as administrators see it.</summary>
public sealed record AccountView(string Name, Role Role);

internal static class AccountEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/me", (HttpContext http, AccountDirectory accounts) => View(http.User, accounts)).ForAnybody();
        api.MapPost("/sign-in", async Task<Results<Ok<Me>, ProblemHttpResult>> (SignInRequest request, HttpContext http, AccountDirectory accounts, Sessions sessions) =>
            await Finish(await accounts.Try(request.Name.Trim(), request.Password, Address(http)), http, accounts, sessions)).ForAnybody();
        api.MapPost("/first-account", async Task<Results<Ok<Me>, ProblemHttpResult>> (FirstAccountRequest request, HttpContext http, AccountDirectory accounts, Sessions sessions) =>
            await Finish(accounts.MakeFirst(request.Code, request.Name.Trim(), request.Password), http, accounts, sessions)).ForAnybody();
        api.MapPost("/sign-out", async (HttpContext http, Sessions sessions) =>
        {
            sessions.End(http.User.FindFirst(Least.SessionClaim)?.Value);
            await http.SignOutAsync();
            return TypedResults.NoContent();
        }).ForAnybody();
        api.MapPost("/me/password", async Task<Results<NoContent, ProblemHttpResult>> (ChangePasswordRequest request, HttpContext http, AccountDirectory accounts, Sessions sessions) =>
        {
            string name = http.User.Identity!.Name!;
            if ((await accounts.Try(name, request.Old, Address(http))).Account is null) return Problems.Refused("The old password is not right.");
            if (accounts.ChangePassword(name, request.New) is { } why) return Problems.Refused(why);
            sessions.EndAll(name);
            return TypedResults.NoContent();
        }).For(Role.Viewer);
        api.MapGet("/accounts", (AccountDirectory accounts) => accounts.All().Select(a => new AccountView(a.Name, a.Role)).ToList()).For(Role.Administrator);
        api.MapPost("/accounts", Results<NoContent, ProblemHttpResult> (NewAccountRequest request, AccountDirectory accounts) =>
            accounts.Add(request.Name.Trim(), request.Password, request.Role) is { } why ? Problems.Refused(why) : TypedResults.NoContent()).For(Role.Administrator);
    }

    private static async Task<Results<Ok<Me>, ProblemHttpResult>> Finish(SignInResult result, HttpContext http, AccountDirectory accounts, Sessions sessions)
    {
        if (result.Account is not { } account) return Problems.Refused(result.Why!);
        var identity = new ClaimsIdentity([new Claim(ClaimTypes.Name, account.Name), new Claim(Least.RoleClaim, account.Role.ToString()), new Claim(Least.StampClaim, account.Stamp), new Claim(Least.SessionClaim, sessions.Begin(account.Name))], CookieAuthenticationDefaults.AuthenticationScheme);
        var user = new ClaimsPrincipal(identity);
        await http.SignInAsync(user, new AuthenticationProperties { IsPersistent = false });
        return TypedResults.Ok(View(user, accounts));
    }

    private static string Address(HttpContext http) => http.Connection.RemoteIpAddress?.ToString() ?? "";

    private static Me View(ClaimsPrincipal user, AccountDirectory accounts) => user.Identity is { IsAuthenticated: true }
        ? new Me(user.Identity.Name, Least.Of(user), false, false)
        : new Me(null, null, accounts.FirstAccountCode is not null, accounts.OffersDemo);
}
