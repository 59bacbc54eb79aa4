namespace LoftyWren.Core.Sequences;

// The client's help shows these comments word for word (BlockHelp reads them from the documentation file),
// so each says its formula, units, status rule and edge cases, for an engineer who has never opened this file.
//
// The common status rule, unless a block says otherwise: an input in fault makes the result a fault; otherwise a
// released input makes the result released; stale and overridden inputs pass their mark on to the result.
//
// A line that closes a loop carries what its block gave on the scan before: off or 0 at the start (IEC 61131-3: variables
// start FALSE and 0), off where the block released, and what it carried before where the block was in fault.

/// <summary>Every kind of block. Names follow IEC 61131-3 where it has one.</summary>
public enum BlockKind
{
    /// <summary>True when all inputs are true.</summary>
    /// <formula>out = in1 ∧ in2 ∧ … up to 8 inputs</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>One usable false decides: the result is false whatever the others are. Otherwise any fault makes it a fault, else any released input makes it released.</status>
    /// <edges>Inputs left open are not counted. With no input at all the result is released.</edges>
    And,
    /// <summary>True when at least one input is true.</summary>
    /// <formula>out = in1 ∨ in2 ∨ … up to 8 inputs</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>One usable true decides: the result is true whatever the others are. Otherwise any fault makes it a fault, else any released input makes it released.</status>
    /// <edges>Inputs left open are not counted. With no input at all the result is released.</edges>
    Or,
    /// <summary>True when an odd number of inputs is true.</summary>
    /// <formula>out = in1 ⊕ in2 ⊕ … up to 8 inputs</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>The common rule: fault before released.</status>
    /// <edges>Inputs left open are not counted.</edges>
    Xor,
    /// <summary>True when the input is false.</summary>
    /// <formula>out = ¬in</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>The common rule.</status>
    /// <edges>None.</edges>
    Not,
    /// <summary>True when the first input is greater than the second.</summary>
    /// <formula>out = in1 &gt; in2</formula>
    /// <units>Both of one quantity; in2 is converted to the unit of in1.</units>
    /// <status>The common rule.</status>
    /// <edges>Equal values give false. Use two-position for a decision that must not chatter.</edges>
    Gt,
    /// <summary>True when the first input is greater than or equal to the second.</summary>
    /// <formula>out = in1 ≥ in2</formula>
    /// <units>Both of one quantity; in2 is converted to the unit of in1.</units>
    /// <status>The common rule.</status>
    /// <edges>Equal values give true.</edges>
    Ge,
    /// <summary>True when the first input is less than the second.</summary>
    /// <formula>out = in1 &lt; in2</formula>
    /// <units>Both of one quantity; in2 is converted to the unit of in1.</units>
    /// <status>The common rule.</status>
    /// <edges>Equal values give false.</edges>
    Lt,
    /// <summary>True when the first input is less than or equal to the second.</summary>
    /// <formula>out = in1 ≤ in2</formula>
    /// <units>Both of one quantity; in2 is converted to the unit of in1.</units>
    /// <status>The common rule.</status>
    /// <edges>Equal values give true.</edges>
    Le,
    /// <summary>True when both inputs are the same.</summary>
    /// <formula>out = (in1 = in2)</formula>
    /// <units>Both of one quantity, or both states; in2 is converted to the unit of in1.</units>
    /// <status>The common rule.</status>
    /// <edges>Measured values are hardly ever exactly equal; meant for states and counts.</edges>
    Eq,
    /// <summary>True when the inputs differ.</summary>
    /// <formula>out = (in1 ≠ in2)</formula>
    /// <units>Both of one quantity, or both states; in2 is converted to the unit of in1.</units>
    /// <status>The common rule.</status>
    /// <edges>Measured values nearly always differ; meant for states and counts.</edges>
    Ne,
    /// <summary>The sum of the inputs.</summary>
    /// <formula>out = in1 + in2 + … up to 8 inputs</formula>
    /// <units>One quantity throughout. A temperature plus temperature differences is a temperature; two temperatures cannot be added.</units>
    /// <status>The common rule.</status>
    /// <edges>Inputs left open are not counted.</edges>
    Add,
    /// <summary>The first input less the second.</summary>
    /// <formula>out = in1 − in2</formula>
    /// <units>One quantity. Temperature − temperature is a difference; temperature − difference is a temperature; difference − temperature is refused.</units>
    /// <status>The common rule.</status>
    /// <edges>None.</edges>
    Sub,
    /// <summary>The product of the inputs.</summary>
    /// <formula>out = in1 × in2 × … up to 8 inputs</formula>
    /// <units>At most one input has a unit, which the result keeps; a temperature cannot be multiplied, a difference can. Three products have units of their own: volume flow × temperature difference (m³/h·K; for water, scale it by 1.163 kW for each m³/h·K), power × time (J) and voltage × current (VA).</units>
    /// <status>The common rule.</status>
    /// <edges>Inputs left open are not counted.</edges>
    Mul,
    /// <summary>The first input divided by the second.</summary>
    /// <formula>out = in1 ÷ in2</formula>
    /// <units>By a bare number: the unit of in1. By the same quantity: a bare number. Temperatures cannot be divided, differences can.</units>
    /// <status>The common rule; division by zero is a fault.</status>
    /// <edges>in2 = 0 gives a fault, never a number.</edges>
    Div,
    /// <summary>The least of the inputs that speak.</summary>
    /// <formula>out = min(in1, in2, …) up to 8 inputs</formula>
    /// <units>One quantity; all are converted to the unit of in1.</units>
    /// <status>A fault makes a fault. Released inputs are left out; when all are released, so is the result.</status>
    /// <edges>With one speaking input the result is that input.</edges>
    Min,
    /// <summary>The greatest of the inputs that speak.</summary>
    /// <formula>out = max(in1, in2, …) up to 8 inputs</formula>
    /// <units>One quantity; all are converted to the unit of in1.</units>
    /// <status>A fault makes a fault. Released inputs are left out; when all are released, so is the result.</status>
    /// <edges>With one speaking input the result is that input.</edges>
    Max,
    /// <summary>The mean of the inputs that speak.</summary>
    /// <formula>out = (in1 + in2 + …) ÷ n, over the n inputs that speak, up to 8</formula>
    /// <units>One quantity; all are converted to the unit of in1. A mean of temperatures is a temperature.</units>
    /// <status>A fault makes a fault. Released inputs are left out; when all are released, so is the result.</status>
    /// <edges>With one speaking input the result is that input.</edges>
    Average,
    /// <summary>The size of a number, without its sign.</summary>
    /// <formula>out = |in|</formula>
    /// <units>Keeps the unit; refuses a temperature, since its zero is arbitrary. Take a difference first.</units>
    /// <status>The common rule.</status>
    /// <edges>None.</edges>
    Abs,
    /// <summary>Keeps a value between two limits.</summary>
    /// <formula>out = min(max(in, low), high)</formula>
    /// <units>All of one quantity; the result has the unit of the input.</units>
    /// <status>The common rule.</status>
    /// <edges>When low is above high the result is a fault, since no value can meet both; the formula of IEC 61131-3 alone would give high and hide the mistake.</edges>
    Limit,
    /// <summary>Chooses one of two inputs.</summary>
    /// <formula>out = in0 when g is false, in1 when g is true</formula>
    /// <units>in0 and in1 of one quantity or both states; in1 is converted to the unit of in0.</units>
    /// <status>The status of the chosen input; a fault or released g makes the result a fault or released.</status>
    /// <edges>The input not chosen may be in fault or left open.</edges>
    Sel,
    /// <summary>A latch in which set wins.</summary>
    /// <formula>q = s1 ∨ (q ∧ ¬r)</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>An input in fault or released counts as no request: the latch keeps its state, which is always good.</status>
    /// <edges>Starts reset. Keeps its state when the program is changed and the block stays.</edges>
    Sr,
    /// <summary>A latch in which reset wins.</summary>
    /// <formula>q = ¬r1 ∧ (q ∨ s)</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>An input in fault or released counts as no request: the latch keeps its state, which is always good.</status>
    /// <edges>Starts reset. Keeps its state when the program is changed and the block stays.</edges>
    Rs,
    /// <summary>True for one scan when the input turns true.</summary>
    /// <formula>out = in ∧ ¬in(last scan)</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>The common rule; while the input is not usable the last usable state is remembered.</status>
    /// <edges>On the very first scan an input that is already true is no edge: a controller that starts has not seen it turn, and starting up must not look like somebody pressing. (The edge of IEC 61131-3, whose memory starts FALSE, would report one.) Over a restart or a changed program the last state is remembered.</edges>
    RisingEdge,
    /// <summary>True for one scan when the input turns false.</summary>
    /// <formula>out = ¬in ∧ in(last scan)</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>The common rule; while the input is not usable the last usable state is remembered.</status>
    /// <edges>On the very first scan an input that is already false is no edge: a controller that starts has not seen it turn, and starting up must not look like somebody pressing. (The edge of IEC 61131-3, whose memory starts FALSE, would report one.) Over a restart or a changed program the last state is remembered.</edges>
    FallingEdge,
    /// <summary>On-delay: true once the input has been true for the time.</summary>
    /// <formula>q = in has been true for at least pt; et = how long, at most pt (IEC 61131-3 TON)</formula>
    /// <units>Binary in and out; pt and et in seconds.</units>
    /// <status>The common rule; while the input is not usable the time stands still.</status>
    /// <edges>pt = 0 passes the input on at once. Time in which the controller is off is not counted.</edges>
    Ton,
    /// <summary>Off-delay: stays true for the time after the input has gone false.</summary>
    /// <formula>q = in is true, or was within the last pt; et = how long it has been false, at most pt (IEC 61131-3 TOF)</formula>
    /// <units>Binary in and out; pt and et in seconds.</units>
    /// <status>The common rule; while the input is not usable the time stands still.</status>
    /// <edges>Starts false. pt = 0 passes the input on at once. Time in which the controller is off is not counted.</edges>
    Tof,
    /// <summary>Pulse: a rising input makes one pulse of fixed length.</summary>
    /// <formula>q = true for pt from a rising edge of in, whatever in does meanwhile (IEC 61131-3 TP)</formula>
    /// <units>Binary in and out; pt and et in seconds.</units>
    /// <status>The common rule; a running pulse goes on while the input is not usable.</status>
    /// <edges>A new edge during the pulse is not counted. An input that is already true on the very first scan starts no pulse, for the reason given at the rising edge. Time in which the controller is off is not counted.</edges>
    Tp,
    /// <summary>Two-position control with a differential.</summary>
    /// <formula>On rise: on when measured &gt; limit, idle when measured &lt; limit − differential. On fall: on when measured &lt; limit, idle when measured &gt; limit + differential. Between, it stays as it was.</formula>
    /// <units>measured and limit of one quantity; the differential is a difference in the unit of measured (K for °C).</units>
    /// <status>The common rule: without a usable measurement or limit it neither says on nor off. Stale measurements are used and marked.</status>
    /// <edges>Exactly at either threshold nothing changes. Starts idle. When idle, it either commands off or releases its claim, as chosen: only a released claim lets lower priorities speak.</edges>
    TwoPosition,
    /// <summary>Maps one range onto another in a straight line.</summary>
    /// <formula>out = outLow + (in − inLow) ÷ (inHigh − inLow) × (outHigh − outLow)</formula>
    /// <units>The input range is in the unit of the input, the output range in the output unit of the block.</units>
    /// <status>The common rule.</status>
    /// <edges>Held at the ends when so chosen, carried on beyond them otherwise. inLow = inHigh is refused.</edges>
    Scale,
    /// <summary>Maps one range onto another along straight lines between points.</summary>
    /// <formula>Between two neighbouring points (x₁, y₁) and (x₂, y₂): out = y₁ + (in − x₁) ÷ (x₂ − x₁) × (y₂ − y₁)</formula>
    /// <units>The places are in the unit of the input, the values in the output unit of the block.</units>
    /// <status>The common rule.</status>
    /// <edges>2 to 32 points, whose places rise. Held at the ends when so chosen, carried on along the first or last line otherwise.</edges>
    Curve,
    /// <summary>True while a value with named states is in one of them.</summary>
    /// <formula>out = (the state of in is called as chosen)</formula>
    /// <units>A point or schedule with named states in, binary out.</units>
    /// <status>The common rule. While no state is chosen the result is released.</status>
    /// <edges>A state that the value has not is refused, and so is calling a state otherwise while a block waits for it by its name.</edges>
    StateIs,
    /// <summary>Proportional, integral and derivative control with a limited output.</summary>
    /// <formula>out = clamp(gain × e + I + D, low, high); dI/dt = gain × e ÷ ti; D = gain × td × de/dt behind a first-order filter of time filter × td. Reverse (heating): e = setpoint − measured; direct (cooling): e = measured − setpoint.</formula>
    /// <units>measured and setpoint of one quantity; gain in % per unit of measured (per K for °C); ti and td in seconds; output in %.</units>
    /// <status>The common rule: without usable inputs it says nothing, and its integral stands still.</status>
    /// <edges>Anti-windup: at a limit the integral only goes back towards 0, never further beyond. When it starts or is enabled again it goes on with the integral it had or, if track is connected, with the one that makes the output go on from track, but never one larger than the range of the output. A new gain, action or derivative time changes the integral so that the output goes on without a jump. ti = 0 leaves the integral out (and its part with it). td acts on the measurement only, so a setpoint step gives no kick; its filter is a quarter of td unless set otherwise, so that noise of 0.03 K at 10 %/K moves the output by about 1 %, not by a multiple of it. Not enabled: released. Time in which the controller is off is not counted.</edges>
    Pid,
    /// <summary>Keeps an on or off state for at least a time.</summary>
    /// <formula>out follows in, but stays on for at least minOn and off for at least minOff</formula>
    /// <units>Binary in and out; minOn and minOff in seconds.</units>
    /// <status>An input in fault or released counts as off, and the times hold all the same: the result is always on or off. Stale and overridden inputs pass their mark on.</status>
    /// <edges>The first state is taken at once. A shorter pulse of the input is lengthened; one that ends within the off time is lost. It never releases its claim, since only commanding off lets a machine rest: weaker claims on the output never speak. It does not see the machine: a stronger claim or a hand can still switch it at any time. Time in which the controller is off is not counted.</edges>
    MinimumTimes,
    /// <summary>Proportional and integral control by its band, as programs of version 1 have it.</summary>
    /// <formula>out = clamp(100 ÷ band × e + I, 0, 100); dI/dt = 100 ÷ band × e ÷ reset, I between 0 and 100. Reverse (heating): e = setpoint − measured; direct (cooling): e = measured − setpoint.</formula>
    /// <units>measured and setpoint of one quantity; band is a difference in the unit of measured (K for °C); reset in minutes; output in %.</units>
    /// <status>The common rule: without usable inputs it says nothing, and its integral stands still.</status>
    /// <edges>Disabled it commands 0 % and forgets its integral. reset = 0 leaves the integral out. It is no longer offered; converting puts a PID in its place.</edges>
    PiBand,
    /// <summary>On and off at two limits, as programs of version 1 have it.</summary>
    /// <formula>on above off: on when in &gt; on, off when in &lt; off. on below off: on when in &lt; on, off when in &gt; off. Between, it stays as it was.</formula>
    /// <units>in any; on and off in the unit of in.</units>
    /// <status>The common rule.</status>
    /// <edges>Exactly at either limit nothing changes. Starts off. With two limits alike it switches at that one. It is no longer offered; converting puts a Two-position in its place.</edges>
    TwoLimits,
    /// <summary>A timer in minutes, as programs of version 1 have it.</summary>
    /// <formula>On-delay: on when in has been true for the minutes. Pulse: on for the minutes after in turned true; another edge begins them anew.</formula>
    /// <units>Binary in and out; minutes.</units>
    /// <status>The common rule; the time stands still meanwhile.</status>
    /// <edges>An input that is already true on the very first scan starts no pulse. Time in which the controller is off is not counted. It is no longer offered; converting puts one of the standard's timers in its place.</edges>
    MinuteTimer,
}
