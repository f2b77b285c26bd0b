using System.Reflection;
using System.Runtime.InteropServices;
using System.Security.Cryptography;

namespace Bostel.Core.ReferenceCases;

/// <summary>One case of a certificate.</summary>
/// <param name="Key">The figure that comes nearest to what is allowed, or lies beyond.</param>
/// <param name="Error">How far that is off, in its unit; null: it is another word, or nothing was computed.</param>
/// <param name="Allowed">How far it may be.</param>
/// <param name="Failure">Why nothing could be computed; null: it could.</param>
public sealed record CertifiedCase(
    string Id, string Kind, int Figures, string Key, double? Error, double Allowed, bool Passed, string? Failure);

/// <summary>
/// Whether this installation computes what is verified: every case of the reference set run here and now, with what it ran on.
/// </summary>
/// <param name="ReferenceSha">SHA-256 over the reference set, file names with it.</param>
/// <param name="ComputationSha">SHA-256 of the library that computes.</param>
public sealed record Certificate(
    DateTimeOffset At, string Version, string Runtime, string System, int Processors, string ReferenceSha, string ComputationSha,
    IReadOnlyList<CertifiedCase> Cases)
{
    public bool Passed => Cases.All(c => c.Passed);

    public int Figures => Cases.Sum(c => c.Figures);

    /// <summary>Runs every case.</summary>
    public static Certificate Issue(DateTimeOffset at)
    {
        var assembly = typeof(Certificate).Assembly;
        return new(at, assembly.GetCustomAttribute<AssemblyInformationalVersionAttribute>()?.InformationalVersion ?? "",
            RuntimeInformation.FrameworkDescription, $"{RuntimeInformation.OSDescription}, {RuntimeInformation.ProcessArchitecture}",
            Environment.ProcessorCount, OfReference(), Convert.ToHexStringLower(SHA256.HashData(File.ReadAllBytes(assembly.Location))),
            [.. ReferenceSet.Fits.Concat(ReferenceSet.Tolerances).Select(Run)]);
    }

    private static CertifiedCase Run(ReferenceCase test)
    {
        try
        {
            var errors = test.Errors();

            // A word has to be the same: nothing is allowed, and nothing over nothing is no share.
            var (key, error, allowed) = errors.MaxBy(e => e.Error == 0 ? 0 : e.Error / e.Allowed);
            return new(test.Id, test.Kind, errors.Count, key, double.IsFinite(error) ? error : null, allowed,
                errors.All(e => e.Error <= e.Allowed), null);
        }
        catch (BadInputException reason)
        {
            return new(test.Id, test.Kind, 0, "", null, 0, false, reason.Message);
        }
    }

    private static string OfReference()
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        foreach (var (name, content) in ReferenceSet.Files)
        {
            hash.AppendData(global::System.Text.Encoding.UTF8.GetBytes(name + "\n"));
            hash.AppendData(content);
        }

        return Convert.ToHexStringLower(hash.GetHashAndReset());
    }
}
