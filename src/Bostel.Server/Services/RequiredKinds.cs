using Microsoft.AspNetCore.OpenApi;
using Microsoft.OpenApi;

namespace Bostel.Server.Services;

/// <summary>In the published API every member of a closed set states its kind: without it nobody can tell what it is.</summary>
public sealed class RequiredKinds : IOpenApiDocumentTransformer
{
    public Task TransformAsync(OpenApiDocument document, OpenApiDocumentTransformerContext context, CancellationToken cancellationToken)
    {
        var schemas = document.Components?.Schemas;
        foreach (var discriminator in schemas?.Values.Select(s => s.Discriminator).OfType<OpenApiDiscriminator>() ?? [])
        {
            foreach (var reference in discriminator.Mapping?.Values ?? Enumerable.Empty<OpenApiSchemaReference>())
            {
                if (discriminator.PropertyName is { } name && schemas![reference.Reference.Id!] is OpenApiSchema member)
                {
                    member.Required ??= new HashSet<string>();
                    member.Required.Add(name);
                }
            }
        }

        return Task.CompletedTask;
    }
}
