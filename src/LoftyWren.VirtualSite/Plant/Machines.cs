namespace LoftyWren.VirtualSite.Plant;

/// <summary>An electric kiln with its own controller: a firing programme, a heat capacity, and losses to the room.</summary>
public sealed class Kiln
{
    /// <summary>Heat capacity, J/K; power, W; loss to the room, W/K.</summary>
    public const double Capacity = 160_000, Power = 16_000, Loss = 7;

    private const double RiseAnHour = 150, Top = 1060, SoakHours = 0.5;

    /// <summary>Temperature inside, °C.</summary>
    public double Temperature { get; set; } = 20;

    /// <summary>When the firing began, in ms of site time; null while it is idle.</summary>
    public long? FiringSince { get; set; }

    /// <summary>Electric energy taken since the start, J.</summary>
    public double EnergyTaken { get; private set; }

    /// <summary>Heat given to the room since the start, J.</summary>
    public double HeatGiven { get; private set; }

    /// <summary>1 idle, 2 firing, 3 cooling.</summary>
    public int State => FiringSince is not null ? 2 : Temperature > 60 ? 3 : 1;

    /// <summary>Moves on; answers the heat given to the room, W.</summary>
    public double Step(double seconds, long now, double room)
    {
        double power = 0;
        if (FiringSince is { } since)
        {
            double hours = (now - since) / 3_600_000.0;
            double wanted = Math.Min(Top, 20 + (hours * RiseAnHour));
            power = Math.Clamp((wanted - Temperature) * 2000, 0, Power);
            if (hours > ((Top - 20) / RiseAnHour) + SoakHours) FiringSince = null;
        }
        double given = Loss * (Temperature - room);
        Temperature += (power - given) * seconds / Capacity;
        EnergyTaken += power * seconds;
        HeatGiven += given * seconds;
        return given;
    }

    /// <summary>Takes up a kept state.</summary>
    public void Restore(double temperature, long? firingSince) => (Temperature, FiringSince) = (temperature, firingSince);
}

/// <summary>A motor with a run contact: it answers a few seconds after it is told.</summary>
public struct Motor
{
    private const double AnswerSeconds = 3;

    /// <summary>Whether it turns, whether it is told to, and for how many seconds it has been told so.</summary>
    public bool Turns { get; private set; }

    /// <summary>Whether it is told to run.</summary>
    public bool Commanded { get; private set; }

    /// <summary>For how long it has been told what it is told now, s.</summary>
    public double SinceCommand { get; private set; }

    /// <summary>Moves on under a command.</summary>
    public void Step(double seconds, bool run)
    {
        SinceCommand = run == Commanded ? SinceCommand + seconds : 0;
        Commanded = run;
        if (SinceCommand >= AnswerSeconds) Turns = run;
    }

    /// <summary>Takes up a kept state.</summary>
    public void Restore(bool turns, bool commanded, double sinceCommand) => (Turns, Commanded, SinceCommand) = (turns, commanded, sinceCommand);
}
