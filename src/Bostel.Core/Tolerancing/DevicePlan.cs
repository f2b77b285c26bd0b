using System.Text.Json.Serialization;
using static System.FormattableString;

namespace Bostel.Core.Tolerancing;

/// <summary>How the errors of the device, and growth by temperature, enter a value.</summary>
/// <param name="Lengths">How often an error of length does: a diametral zone takes it twice, a form or an angle not at all.</param>
/// <param name="Span">The length that is measured, mm.</param>
/// <param name="Probings">How often an error of form does.</param>
public sealed record DeviceShare(double Lengths, double Span, double Probings)
{
    public static readonly DeviceShare None = new(0, 0, 0);
}

/// <summary>
/// What is stated of the device (ISO 10360-13): errors of length up to E = A + L·B, and by how much it shows a perfect surface wider than
/// it is, beyond the noise that the points themselves tell.
/// </summary>
/// <param name="LengthError">A, mm.</param>
/// <param name="LengthErrorPerMetre">B, mm/m.</param>
/// <param name="ProbingError">Of form, mm.</param>
public sealed record DevicePlan(double LengthError = 0.01, double LengthErrorPerMetre = 0, double ProbingError = 0)
{
    /// <summary>Errors of length are uniform between −E and E, of form between 0 and the stated one (JCGM 100:2008, 4.3.7).</summary>
    public IEnumerable<Contribution> Contributions(DeviceShare share) =>
    [
        new("length error of the device", share.Lengths * (LengthError + (share.Span * LengthErrorPerMetre / 1000)) / Math.Sqrt(3)),
        new("probing error of the device", share.Probings * ProbingError / Math.Sqrt(12)),
    ];

    /// <summary>For screen and report.</summary>
    [JsonIgnore]
    public string Words => Invariant($"length error up to {LengthError} mm")
        + (LengthErrorPerMetre > 0 ? Invariant($" + {LengthErrorPerMetre} mm/m") : "")
        + (ProbingError > 0 ? Invariant($", probing error of form {ProbingError} mm") : "");

    internal bool IsPossible => LengthError >= 0 && LengthErrorPerMetre >= 0 && ProbingError >= 0;
}
