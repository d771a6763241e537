using System.Diagnostics;
using System.Text.Json;

namespace Cursiva.Cli.Tests;

/// <summary>The stand-in cloud, and what it saw.</summary>
internal sealed class StandIn : IDisposable
{
    private readonly Process _process;
    private readonly HttpClient _http = new();

    private StandIn(Process process, string address)
    {
        _process = process;
        Address = address;
    }

    public string Address { get; }

    /// <summary>Another origin of the same server.</summary>
    public async Task<string> ElsewhereAsync() => await _http.GetStringAsync(Address + "/elsewhere");

    public static async Task<StandIn> StartAsync(params string[] arguments)
    {
        var process = Process.Start(new ProcessStartInfo(Path.Combine(App.Folder, "stand-in", "cursiva-stand-in"), arguments) { RedirectStandardOutput = true })!;
        var line = await process.StandardOutput.ReadLineAsync();
        line.ShouldStartWith("listening on ");
        return new StandIn(process, line!["listening on ".Length..]);
    }

    public async Task<JsonElement> StatisticsAsync() => await JsonAsync("/statistics");

    /// <summary>What was written at the office.</summary>
    public Task<JsonElement> OfficeAsync() => JsonAsync("/office");

    /// <summary>How the office behaves from now on.</summary>
    public async Task BehaveAsync(string manner) => (await _http.PutAsync(Address + "/office/manner", new StringContent(manner))).EnsureSuccessStatusCode().Dispose();

    /// <summary>Changes how long requests are on their way.</summary>
    public async Task DelayAsync(int milliseconds) => (await _http.PutAsync($"{Address}/latency/{milliseconds}", null)).EnsureSuccessStatusCode().Dispose();

    /// <summary>The first refresh token of a new family, as a person's sign-in would bring it.</summary>
    public async Task<string> SeedAsync(string person = "person-17")
    {
        using var answer = await _http.PostAsync(Address + "/oauth2/refresh-tokens?person=" + person, null);
        return await answer.Content.ReadAsStringAsync();
    }

    /// <summary>Takes all refresh tokens back, as an administrator would.</summary>
    public async Task RevokeFamiliesAsync() => (await _http.DeleteAsync(Address + "/oauth2/refresh-tokens")).EnsureSuccessStatusCode().Dispose();

    /// <summary>Lets a day pass, on which some vehicles change.</summary>
    public async Task NextDayAsync() => (await _http.PostAsync(Address + "/world/next-day", null)).EnsureSuccessStatusCode().Dispose();

    /// <summary>Waits until the stand-in has seen something.</summary>
    public async Task UntilAsync(Func<JsonElement, bool> hasHappened)
    {
        for (var i = 0; !hasHappened(await StatisticsAsync()); i++)
        {
            i.ShouldBeLessThan(3000, "the stand-in did not see it in 30 s");
            await Task.Delay(10);
        }
    }

    /// <summary>Follows an address as a browser would, and gives the page.</summary>
    public async Task<string> BrowseAsync(string address) => await _http.GetStringAsync(address);

    /// <summary>Where an address points to, without following it.</summary>
    public static async Task<string> LocationAsync(string address)
    {
        using var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false });
        using var answer = await http.GetAsync(address);
        return answer.Headers.Location!.OriginalString;
    }

    /// <summary>One answer of the API, fetched in the plainest way.</summary>
    public async Task<JsonElement> PageAsync(string path)
    {
        await SignInAsync();
        return await JsonAsync(path);
    }

    private async Task SignInAsync()
    {
        if (_http.DefaultRequestHeaders.Authorization is not null)
            return;
        using var token = await _http.PostAsync(Address + "/oauth2/token", new FormUrlEncodedContent(
            [new("grant_type", "client_credentials"), new("client_id", "brackwater-demo"), new("client_secret", Job.Secret)]));
        using var answer = JsonDocument.Parse(await token.Content.ReadAsStringAsync());
        _http.DefaultRequestHeaders.Authorization = new("Bearer", answer.RootElement.GetProperty("access_token").GetString());
    }

    /// <summary>All rows of a listing, fetched page by page in the plainest way.</summary>
    public async Task<List<JsonElement>> RowsAsync(string listing)
    {
        await SignInAsync();
        var rows = new List<JsonElement>();
        for (string? next = $"/v2/{listing}"; next is not null;)
        {
            var page = await JsonAsync(next);
            rows.AddRange(page.GetProperty("items").EnumerateArray());
            var cursor = page.GetProperty("page").GetProperty("cursor").GetString();
            next = cursor is null ? null : $"/v2/{listing}?cursor={cursor}";
        }

        return rows;
    }

    public void Dispose()
    {
        _process.Kill();
        _process.WaitForExit();
        _process.Dispose();
        _http.Dispose();
    }

    private async Task<JsonElement> JsonAsync(string path)
    {
        using var document = JsonDocument.Parse(await _http.GetStringAsync(Address + path));
        return document.RootElement.Clone();
    }
}
