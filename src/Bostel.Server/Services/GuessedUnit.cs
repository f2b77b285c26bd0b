using Bostel.Core.Formats;
using Bostel.Data;

namespace Bostel.Server.Services;

/// <summary>Whether a scan is as large as its part in the unit it is read in.</summary>
public static class GuessedUnit
{
    /// <summary>The unit in which the sizes come nearest, and whether it is the one taken; null without a nominal or a scan.</summary>
    public static (string Unit, bool Agrees)? Of(Piece piece, Nominal? nominal) => nominal is null || piece.Vertices == 0
        ? null
        : LengthUnit.Guess(
            piece.PartDiagonal,
            Math.Sqrt((nominal.SizeX * nominal.SizeX) + (nominal.SizeY * nominal.SizeY) + (nominal.SizeZ * nominal.SizeZ)), piece.Unit);
}
