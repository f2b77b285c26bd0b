using Bostel.Core;
using Bostel.Core.Plans;
using Bostel.Data;

namespace Bostel.Server.Services;

/// <summary>A piece with the nominal and the plan in force, and the keys that today's outcomes have.</summary>
public sealed record Workpiece(Piece Piece, Nominal Nominal, InspectionPlan Plan, int PlanNumber)
{
    private readonly Lazy<OutcomeKeys> _keys = new(() => OutcomeKeys.Of(SourceOf(Piece), SourceOf(Nominal), Plan));

    public ScanSource Scan => SourceOf(Piece);

    public NominalSource NominalSource => SourceOf(Nominal);

    public OutcomeKeys Keys => _keys.Value;

    public string Subject => $"{Piece.Part!.Number} piece {Piece.Serial}";

    public static ScanSource SourceOf(Piece piece) =>
        new(piece.FileSha, Path.GetExtension(piece.FileName).ToLowerInvariant(), piece.Columns, piece.Unit);

    public static NominalSource SourceOf(Nominal nominal) => new(nominal.FileSha, nominal.Unit, nominal.ModelSha);

    /// <exception cref="BadInputException">The scan could not be read.</exception>
    public void RequireReadable()
    {
        if (Piece.Problem is { } problem)
        {
            throw new BadInputException(problem);
        }
    }
}
