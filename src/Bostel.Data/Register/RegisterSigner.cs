using System.Security.Cryptography;
using System.Text;

namespace Bostel.Data.Register;

/// <summary>Signs entries with the server's own key, which is made when it is first needed and lies in the server's folder.</summary>
public sealed class RegisterSigner : IDisposable
{
    private readonly Lazy<ECDsa> _key;

    /// <param name="folder">For secrets; only the server's user may read it.</param>
    public RegisterSigner(string folder) => _key = new(() => LoadOrMake(folder));

    public string PublicKey => _key.Value.ExportSubjectPublicKeyInfoPem();

    public string KeyId => IdOf(PublicKey);

    public static string IdOf(string publicKey) => Convert.ToHexStringLower(SHA256.HashData(Encoding.ASCII.GetBytes(publicKey)))[..16];

    public string Sign(string hash) => Convert.ToBase64String(_key.Value.SignData(Encoding.ASCII.GetBytes(hash), HashAlgorithmName.SHA256));

    /// <summary>Whether a signature is that of a key's owner; anybody can tell with the public key alone.</summary>
    public static bool Matches(string publicKey, string hash, string signature)
    {
        using var key = ECDsa.Create();
        try
        {
            key.ImportFromPem(publicKey);
            return key.VerifyData(Encoding.ASCII.GetBytes(hash), Convert.FromBase64String(signature), HashAlgorithmName.SHA256);
        }
        catch (Exception e) when (e is ArgumentException or FormatException or CryptographicException)
        {
            return false;
        }
    }

    public void Dispose()
    {
        if (_key.IsValueCreated)
        {
            _key.Value.Dispose();
        }
    }

    private static ECDsa LoadOrMake(string folder)
    {
        Directory.CreateDirectory(folder);
        var file = Path.Combine(folder, "register-key.pem");
        if (!File.Exists(file))
        {
            using var made = ECDsa.Create(ECCurve.NamedCurves.nistP256);
            var part = $"{file}.{Guid.NewGuid():N}.part";
            var how = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
            if (!OperatingSystem.IsWindows())
            {
                how.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
            }

            using (var stream = new FileStream(part, how))
            {
                stream.Write(Encoding.ASCII.GetBytes(made.ExportPkcs8PrivateKeyPem()));
            }

            try
            {
                // Who comes second uses the key of who came first.
                File.Move(part, file, overwrite: false);
            }
            catch (IOException)
            {
                File.Delete(part);
            }
        }

        var key = ECDsa.Create();
        key.ImportFromPem(File.ReadAllText(file));
        return key;
    }
}
