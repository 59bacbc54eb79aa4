using System.Security.Claims;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Authorization;

namespace LoftyWren.Server.Accounts;

/// <summary>The least role that may call an endpoint; null means anybody, signed in or not.</summary>
public sealed record LeastRole(Role? Role);

/// <summary>Says who may call an endpoint. An endpoint that does not say is closed to all.</summary>
public static class Least
{
    /// <summary>The claim that holds the role.</summary>
    public const string RoleClaim = "role";

    /// <summary>The claim that holds the account's stamp.</summary>
    public const string StampClaim = "stamp";

    /// <summary>The claim that holds what the server knows the session by.</summary>
    public const string SessionClaim = "session";

    /// <summary>The role of somebody who is signed in.</summary>
    public static Role Of(ClaimsPrincipal user) => Enum.Parse<Role>(user.FindFirst(RoleClaim)!.Value);

    /// <summary>Opens an endpoint to a role and those above it.</summary>
    public static TBuilder For<TBuilder>(this TBuilder builder, Role role) where TBuilder : IEndpointConventionBuilder
    {
        builder.WithMetadata(new LeastRole(role));
        return builder.RequireAuthorization(role.ToString());
    }

    /// <summary>Opens an endpoint to everybody.</summary>
    public static TBuilder ForAnybody<TBuilder>(this TBuilder builder) where TBuilder : IEndpointConventionBuilder
    {
        builder.WithMetadata(new LeastRole(null));
        return builder.AllowAnonymous();
    }

    /// <summary>One policy a role, and a closed door for what has none.</summary>
    public static void AddTo(AuthorizationOptions options)
    {
        foreach (Role role in Enum.GetValues<Role>())
        {
            options.AddPolicy(role.ToString(), policy => policy.RequireAuthenticatedUser()
                .RequireAssertion(context => Enum.TryParse(context.User.FindFirst(RoleClaim)?.Value, out Role has) && has >= role));
        }
        options.FallbackPolicy = new AuthorizationPolicyBuilder().RequireAssertion(_ => false).Build();
    }
}
