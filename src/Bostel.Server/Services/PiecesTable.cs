using Bostel.Core;
using Bostel.Data;
using Bostel.Reports;
using Microsoft.EntityFrameworkCore;

namespace Bostel.Server.Services;

/// <summary>What was found of all pieces of a part, as one workbook.</summary>
public sealed class PiecesTable(BostelContext context)
{
    /// <summary>The pieces judged last.</summary>
    private const int Most = 1000;

    /// <exception cref="NotFoundException">There is no such part.</exception>
    /// <exception cref="BadInputException">None of its pieces is judged.</exception>
    public async Task<(string Name, byte[] Content)> WriteAsync(Guid partId, CancellationToken cancel)
    {
        var part = await context.Parts.AsNoTracking().SingleOrDefaultAsync(p => p.Id == partId, cancel)
            ?? throw new NotFoundException("There is no such part.");
        var pieces = await context.Pieces.AsNoTracking().Where(p => p.PartId == partId && p.RunId != null)
            .OrderByDescending(p => p.CreatedAt).Take(Most).Include(p => p.Run).ThenInclude(r => r!.Characteristics).ToListAsync(cancel);
        if (pieces.Count == 0)
        {
            throw new BadInputException($"No piece of {part.Number} is judged yet.");
        }

        var runs = pieces.Select(p => p.RunId!.Value).ToList();
        var reports = (await context.Reports.AsNoTracking().Where(r => runs.Contains(r.RunId) && r.WithdrawnAt == null)
            .OrderBy(r => r.IssuedAt).Select(r => new { r.RunId, r.Number }).ToListAsync(cancel))
            .GroupBy(r => r.RunId).ToDictionary(g => g.Key, g => g.Last().Number);
        return ($"{part.Number}-pieces.xlsx", PiecesWorkbook.Write([.. pieces.Select(p => new PieceRows(
            p.Serial, reports.GetValueOrDefault(p.RunId!.Value, ""), $"revision {p.Run!.PlanNumber}",
            [.. p.Run.Characteristics.OrderBy(c => c.No).Select(CharacteristicRows.ResultOf)]))]));
    }
}
