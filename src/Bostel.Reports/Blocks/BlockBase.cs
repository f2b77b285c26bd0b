using Microsoft.AspNetCore.Components;

namespace Bostel.Reports.Blocks;

/// <summary>A part of a report: prints what the model holds, and nothing else.</summary>
public abstract class BlockBase : ComponentBase
{
    [Parameter, EditorRequired]
    public required ReportModel Model { get; set; }

    protected static string N(double v) => v.ToString("0.#", System.Globalization.CultureInfo.InvariantCulture);

    protected static string Signed(double? value, int decimals) => Wording.Signed(value, decimals);
}
