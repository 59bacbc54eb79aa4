using LoftyWren.Core.Records;
using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace LoftyWren.Server;

/// <summary>How the description of the interface says our own types.</summary>
internal static class OpenApiShape
{
    public static void Configure(OpenApiOptions options)
    {
        options.AddSchemaTransformer((schema, context, _) =>
        {
            if (context.JsonTypeInfo.Type == typeof(RecordId) || context.JsonTypeInfo.Type == typeof(RecordId?))
            {
                schema.Type = JsonSchemaType.String;
                schema.Properties?.Clear();
            }
            return Task.CompletedTask;
        });
        options.AddDocumentTransformer((document, _, _) =>
        {
            document.Info = new OpenApiInfo { Title = "Lofty Wren", Version = "1" };
            document.Servers?.Clear();
            return Task.CompletedTask;
        });
    }
}
