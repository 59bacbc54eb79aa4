using System.Text.Json.Serialization.Metadata;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Live;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace LoftyWren.Server;

/// <summary>How the description of the interface says our own types.</summary>
internal static class OpenApiShape
{
    /// <summary>What travels outside of endpoints' answers: over the live hub, and in problem details.</summary>
    private static readonly Type[] Besides = [typeof(LiveValue), typeof(ProjectChanged), typeof(Refusal), typeof(Conflict)];

    private static readonly Type[] Whole = [typeof(HardwareModel), typeof(TerminalGroup), typeof(RailDevice), typeof(Rail), typeof(SupplyBudget), typeof(CheckProgress)];

    public static void Configure(OpenApiOptions options)
    {
        options.AddSchemaTransformer((schema, context, _) =>
        {
            Type type = context.JsonTypeInfo.Type;
            if (type == typeof(RecordId) || type == typeof(RecordId?))
            {
                schema.Type = JsonSchemaType.String;
                schema.Properties?.Clear();
            }
            else if (type == typeof(Signal))
            {
                schema.Type = JsonSchemaType.String;
                schema.Properties?.Clear();
                schema.Enum = [.. Signal.All.Select(s => (System.Text.Json.Nodes.JsonNode)s.Key)];
            }
            else if (context.JsonTypeInfo.ElementType == typeof(Signal)) schema.Items = new OpenApiSchema { Type = JsonSchemaType.String };
            else if (context.JsonTypeInfo.ElementType == typeof(RecordId))
            {
                var id = new OpenApiSchema { Type = JsonSchemaType.String };
                if (context.JsonTypeInfo.Kind == JsonTypeInfoKind.Dictionary) schema.AdditionalProperties = id;
                else schema.Items = id;
            }
            else if (type == typeof(Corner)) schema.Required = new HashSet<string> { "x", "y" };
            // What the server works out of these is always there.
            else if (Whole.Contains(type)) schema.Required = context.JsonTypeInfo.Properties.Where(p => p.IsGetNullable is false || p.PropertyType.IsValueType && Nullable.GetUnderlyingType(p.PropertyType) is null).Select(p => p.Name).ToHashSet();
            return Task.CompletedTask;
        });
        // Tags would name whichever program hosts the server.
        options.AddOperationTransformer((operation, _, _) =>
        {
            operation.Tags?.Clear();
            return Task.CompletedTask;
        });
        options.AddDocumentTransformer(async (document, context, stop) =>
        {
            document.Info = new OpenApiInfo { Title = "Lofty Wren", Version = "1" };
            document.Servers?.Clear();
            document.Tags?.Clear();
            foreach (Type type in Besides) document.AddComponent(type.Name, await context.GetOrCreateSchemaAsync(type, null, stop));
        });
    }
}
