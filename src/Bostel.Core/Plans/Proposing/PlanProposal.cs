using System.Text.Json.Serialization;
using Bostel.Core.Features;
using Bostel.Core.Nominals;
using Bostel.Core.Tolerancing;

namespace Bostel.Core.Plans;

/// <summary>What proposals are taken from.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<ProposalSource>))]
public enum ProposalSource
{
    /// <summary>Product information in the CAD file (ISO 10303-242).</summary>
    [JsonStringEnumMemberName("pmi")]
    Pmi,

    /// <summary>A table of the drawing's characteristics.</summary>
    [JsonStringEnumMemberName("table")]
    Table,

    /// <summary>The faces themselves, with general tolerances.</summary>
    [JsonStringEnumMemberName("faces")]
    Faces,
}

/// <summary>A plan that a nominal proposes, perhaps with the table of its drawing.</summary>
/// <param name="Features">That the plan does not have yet.</param>
/// <param name="Datums">That the plan does not have yet.</param>
/// <param name="Characteristics">Numbered after those of the plan.</param>
/// <param name="Doubts">What was left out or is not certain, and why.</param>
public sealed record PlanProposal(
    IReadOnlyList<FeaturePlan> Features, IReadOnlyList<DatumPlan> Datums, IReadOnlyList<CharacteristicPlan> Characteristics,
    IReadOnlyList<string> Doubts)
{
    /// <summary>Numbers of the characteristics whose features or limits are not certain.</summary>
    public IReadOnlyList<int> Doubtful { get; init; } = [];

    /// <summary>The characteristics as a drawing would write them.</summary>
    public IReadOnlyList<DrawnText> Drawn { get; init; } = [];

    /// <summary>Whether the CAD file carries product information that could be proposed.</summary>
    public bool HasInformation { get; init; }

    /// <summary>What is proposed from where nothing is said: what the file and a table give, else the faces.</summary>
    public static IReadOnlyList<ProposalSource> Usual(NominalModel nominal, bool hasTable)
    {
        ProposalSource[] given = [.. nominal.Information.IsEmpty ? [] : (ProposalSource[])[ProposalSource.Pmi],
            .. hasTable ? (ProposalSource[])[ProposalSource.Table] : []];
        return given.Length > 0 ? given : [ProposalSource.Faces];
    }

    /// <summary>Proposes from some sources, one after the other: none asks again what one before it asked.</summary>
    /// <param name="table">Of the drawing's characteristics; null: there is none.</param>
    /// <exception cref="BadInputException">A table is asked for and none is given.</exception>
    public static PlanProposal Of(
        NominalModel nominal, InspectionPlan plan, IReadOnlyCollection<ProposalSource> sources, DrawingTable? table = null)
    {
        var draft = new ProposalDraft(nominal, plan);
        foreach (var source in sources.Distinct().Order())
        {
            switch (source)
            {
                case ProposalSource.Pmi:
                    InformationProposals.Add(draft);
                    break;
                case ProposalSource.Table:
                    TableProposals.Add(
                        draft, table ?? throw new BadInputException("No table of the drawing's characteristics is given."));
                    break;
                default:
                    FaceProposals.Add(draft);
                    break;
            }
        }

        // What a line that was left out had named is in no use.
        HashSet<string> used = [.. draft.Rows.SelectMany(r => r.Refers.Features), .. draft.Datums.SelectMany(d => d.Features)];
        return new([.. draft.Features.Where(f => used.Contains(f.Id))], draft.Datums, [.. draft.Rows.OrderBy(r => r.No)], draft.Doubts)
        {
            Drawn = [.. draft.Rows.Select(r => AsDrawn.Of(draft, r))],
            Doubtful = draft.Doubtful,
            HasInformation = !nominal.Information.IsEmpty,
        };
    }

    /// <summary>The plan with all of it.</summary>
    public InspectionPlan AddedTo(InspectionPlan plan) => plan with
    {
        Features = [.. plan.Features, .. Features],
        Datums = [.. plan.Datums, .. Datums],
        Characteristics = [.. plan.Characteristics, .. Characteristics],
    };
}
