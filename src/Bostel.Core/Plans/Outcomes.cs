using System.Collections.Concurrent;
using System.Diagnostics.CodeAnalysis;
using Bostel.Core.Alignment;
using Bostel.Core.Comparison;

namespace Bostel.Core.Plans;

/// <summary>An alignment with how it was made.</summary>
public sealed record AlignedOutcome(AlignPlan How, AlignmentResult Result);

/// <summary>Statistics of the deviations within a band, with the limits of the search they rest on.</summary>
public sealed record ComparedOutcome(DeviationOptions How, double Lower, double Upper, DeviationStatistics Statistics);

/// <summary>Outcomes by the key of what made them. An outcome under a key is right for ever: nothing in it can go out of date.</summary>
public interface IOutcomeStore
{
    bool TryGet<T>(string key, [NotNullWhen(true)] out T? outcome)
        where T : class;

    void Put<T>(string key, T outcome)
        where T : class;
}

/// <summary>Outcomes in memory. Safe for concurrent use.</summary>
public sealed class MemoryOutcomes : IOutcomeStore
{
    private readonly ConcurrentDictionary<string, object> _outcomes = new();

    public bool TryGet<T>(string key, [NotNullWhen(true)] out T? outcome)
        where T : class
    {
        outcome = _outcomes.GetValueOrDefault(key) as T;
        return outcome is not null;
    }

    public void Put<T>(string key, T outcome)
        where T : class => _outcomes[key] = outcome;
}
