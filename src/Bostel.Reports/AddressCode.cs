using QRCoder;

namespace Bostel.Reports;

/// <summary>An address as a QR code (ISO/IEC 18004), so that paper leads to the register.</summary>
public static class AddressCode
{
    private const int PixelsAModule = 4;

    /// <summary>As SVG that fills its place.</summary>
    public static string Of(string address)
    {
        using var data = QRCodeGenerator.GenerateQrCode(address, QRCodeGenerator.ECCLevel.M);
        using var code = new SvgQRCode(data);
        return code.GetGraphic(PixelsAModule, "#1E2A32", "#ffffff", drawQuietZones: false, SvgQRCode.SizingMode.ViewBoxAttribute);
    }
}
