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
    /// <units>At most one input has a unit, which the result keeps; a temperature cannot be multiplied, a difference can. Some products have units of their own: volume flow × temperature difference (m³/h·K), and that × heat capacity by volume (kWh/m³·K) is a power; mass flow × heat capacity (kJ/kg·K) × temperature difference, and mass flow × enthalpy, are powers; volume flow × density is a mass flow; power, flow or mass flow × time is an energy (kWh), a volume or a mass; speed × area is a volume flow; pressure × volume flow, and irradiance × area, are powers; voltage × current (VA), current × resistance.</units>
    /// <status>The common rule.</status>
    /// <edges>Inputs left open are not counted.</edges>
    Mul,
    /// <summary>The first input divided by the second.</summary>
    /// <formula>out = in1 ÷ in2</formula>
    /// <units>By a bare number: the unit of in1. By the same quantity: a bare number. A product by one of its factors (see Multiply): the other one, such as energy ÷ time. Temperatures cannot be divided, differences can.</units>
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
    /// <start>Starts reset; keeps its state over a restart.</start>
    Sr,
    /// <summary>A latch in which reset wins.</summary>
    /// <formula>q = ¬r1 ∧ (q ∨ s)</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>An input in fault or released counts as no request: the latch keeps its state, which is always good.</status>
    /// <edges>Starts reset. Keeps its state when the program is changed and the block stays.</edges>
    /// <start>Starts reset; keeps its state over a restart.</start>
    Rs,
    /// <summary>True for one scan when the input turns true.</summary>
    /// <formula>out = in ∧ ¬in(last scan)</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>The common rule; while the input is not usable the last usable state is remembered.</status>
    /// <edges>On the very first scan an input that is already true is no edge: a controller that starts has not seen it turn, and starting up must not look like somebody pressing. (The edge of IEC 61131-3, whose memory starts FALSE, would report one.) Over a restart or a changed program the last state is remembered.</edges>
    /// <start>An input that is already true on the very first scan has not turned.</start>
    RisingEdge,
    /// <summary>True for one scan when the input turns false.</summary>
    /// <formula>out = ¬in ∧ in(last scan)</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>The common rule; while the input is not usable the last usable state is remembered.</status>
    /// <edges>On the very first scan an input that is already false is no edge: a controller that starts has not seen it turn, and starting up must not look like somebody pressing. (The edge of IEC 61131-3, whose memory starts FALSE, would report one.) Over a restart or a changed program the last state is remembered.</edges>
    /// <start>An input that is already false on the very first scan has not turned.</start>
    FallingEdge,
    /// <summary>On-delay: true once the input has been true for the time.</summary>
    /// <formula>q = in has been true for at least pt; et = how long, at most pt (IEC 61131-3 TON)</formula>
    /// <units>Binary in and out; pt and et in seconds.</units>
    /// <status>The common rule; while the input is not usable the time stands still.</status>
    /// <edges>pt = 0 passes the input on at once. Time in which the controller is off is not counted.</edges>
    /// <start>Starts false; the time that has passed goes on over a restart.</start>
    /// <change>At once: a delay that is over by the new time is over.</change>
    Ton,
    /// <summary>Off-delay: stays true for the time after the input has gone false.</summary>
    /// <formula>q = in is true, or was within the last pt; et = how long it has been false, at most pt (IEC 61131-3 TOF)</formula>
    /// <units>Binary in and out; pt and et in seconds.</units>
    /// <status>The common rule; while the input is not usable the time stands still.</status>
    /// <edges>Starts false. pt = 0 passes the input on at once. Time in which the controller is off is not counted.</edges>
    /// <start>Starts false; the time that has passed goes on over a restart.</start>
    /// <change>At once: a time that is over by the new length is over.</change>
    Tof,
    /// <summary>Pulse: a rising input makes one pulse of fixed length.</summary>
    /// <formula>q = true for pt from a rising edge of in, whatever in does meanwhile (IEC 61131-3 TP)</formula>
    /// <units>Binary in and out; pt and et in seconds.</units>
    /// <status>A running pulse goes on while the input is not usable; otherwise the common rule.</status>
    /// <edges>A new edge during the pulse is not counted. An input that is already true on the very first scan starts no pulse, for the reason given at the rising edge. Time in which the controller is off is not counted.</edges>
    /// <start>Starts false; a pulse goes on over a restart.</start>
    /// <change>At once: a pulse that is over by the new length is over.</change>
    Tp,
    /// <summary>Two-position control with a differential.</summary>
    /// <formula>On rise: on when measured &gt; limit, idle when measured &lt; limit − differential. On fall: on when measured &lt; limit, idle when measured &gt; limit + differential. Between, it stays as it was.</formula>
    /// <units>measured and limit of one quantity; the differential is a difference in the unit of measured (K for °C).</units>
    /// <status>The common rule: without a usable measurement or limit it neither says on nor off. Stale measurements are used and marked.</status>
    /// <edges>Exactly at either threshold nothing changes. Starts idle. When idle, it either commands off or releases its claim, as chosen: only a released claim lets lower priorities speak.</edges>
    /// <start>Starts idle; its state goes on over a restart.</start>
    /// <change>At once: what the new limits ask for.</change>
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
    /// <formula>out = clamp(gain × e + feed forward + I + D, low, high); dI/dt = gain × e ÷ ti; D = gain × td × de/dt behind a first-order filter of time filter × td. Reverse (heating): e = setpoint − measured; direct (cooling): e = measured − setpoint.</formula>
    /// <units>measured and setpoint of one quantity; gain in % per unit of measured (per K for °C); ti and td in seconds; output in %.</units>
    /// <status>The common rule: without usable inputs it says nothing, and its integral stands still.</status>
    /// <edges>Anti-windup: at a limit the integral only goes back towards 0, never further beyond. When it starts or is enabled again it goes on with the integral it had or, if track is connected, with the one that makes the output go on from track, but never one larger than the range of the output. A new gain, action or derivative time changes the integral so that the output goes on without a jump. ti = 0 leaves the integral out (and its part with it). td acts on the measurement only, so a setpoint step gives no kick; its filter is a quarter of td unless set otherwise, so that noise of 0.03 K at 10 %/K moves the output by about 1 %, not by a multiple of it. Not enabled: released. Time in which the controller is off is not counted.</edges>
    /// <start>Starts with no integral, or from track; goes on with its integral over a restart.</start>
    /// <change>No jump: the integral takes up what a new gain, action, derivative time or filter would change, as far as the range of the output goes. New limits of the output count at once.</change>
    Pid,
    /// <summary>Keeps an on or off state for at least a time.</summary>
    /// <formula>out follows in, but stays on for at least minOn and off for at least minOff</formula>
    /// <units>Binary in and out; minOn and minOff in seconds.</units>
    /// <status>An input in fault or released counts as off, and the times hold all the same: the result is always on or off. Stale and overridden inputs pass their mark on.</status>
    /// <edges>The first state is taken at once. A shorter pulse of the input is lengthened; one that ends within the off time is lost. It never releases its claim, since only commanding off lets a machine rest: weaker claims on the output never speak. It does not see the machine: a stronger claim or a hand can still switch it at any time. Time in which the controller is off is not counted.</edges>
    /// <start>The first state is taken at once; state and time go on over a restart.</start>
    /// <change>At once: a time that is over by the new length is over.</change>
    MinimumTimes,
    /// <summary>Proportional and integral control by its band, as programs of version 1 have it.</summary>
    /// <formula>out = clamp(100 ÷ band × e + I, 0, 100); dI/dt = 100 ÷ band × e ÷ reset, I between 0 and 100. Reverse (heating): e = setpoint − measured; direct (cooling): e = measured − setpoint.</formula>
    /// <units>measured and setpoint of one quantity; band is a difference in the unit of measured (K for °C); reset in minutes; output in %.</units>
    /// <status>The common rule: without usable inputs it says nothing, and its integral stands still.</status>
    /// <edges>Disabled it commands 0 % and forgets its integral. reset = 0 leaves the integral out. It is no longer offered; converting puts a PID in its place.</edges>
    /// <start>Starts with no integral, and goes on with it over a restart.</start>
    /// <change>At once.</change>
    PiBand,
    /// <summary>On and off at two limits, as programs of version 1 have it.</summary>
    /// <formula>on above off: on when in &gt; on, off when in &lt; off. on below off: on when in &lt; on, off when in &gt; off. Between, it stays as it was.</formula>
    /// <units>in any; on and off in the unit of in.</units>
    /// <status>The common rule.</status>
    /// <edges>Exactly at either limit nothing changes. Starts off. With two limits alike it switches at that one. It is no longer offered; converting puts a Two-position in its place.</edges>
    /// <start>Starts off; its state goes on over a restart.</start>
    /// <change>At once: what the new limits ask for.</change>
    TwoLimits,
    /// <summary>A timer in minutes, as programs of version 1 have it.</summary>
    /// <formula>On-delay: on when in has been true for the minutes. Pulse: on for the minutes after in turned true; another edge begins them anew.</formula>
    /// <units>Binary in and out; minutes.</units>
    /// <status>The common rule; the time stands still meanwhile.</status>
    /// <edges>An input that is already true on the very first scan starts no pulse. Time in which the controller is off is not counted. It is no longer offered; converting puts one of the standard's timers in its place.</edges>
    /// <start>Starts off; the time that has passed goes on over a restart.</start>
    /// <change>At once.</change>
    MinuteTimer,
    /// <summary>True when at least so many inputs are true, such as two of three.</summary>
    /// <formula>out = (number of inputs that are true ≥ least)</formula>
    /// <units>Binary in, binary out.</units>
    /// <status>As many usable true ones as needed decide for true, and too few even with the others for false. Otherwise any fault makes it a fault, else any released input makes it released.</status>
    /// <edges>Inputs left open are not counted.</edges>
    AtLeast,
    /// <summary>Names a state by the first contact that is on.</summary>
    /// <formula>out = k, where in k is the first input that is true; the last state when none is</formula>
    /// <units>Binary in; a value out whose states are called as written on the block, separated by commas.</units>
    /// <status>A fault before the first input that is true makes a fault. Released inputs count as off.</status>
    /// <edges>One state for each input up to the last that is connected, and one more for when none is on.</edges>
    StateOf,
    /// <summary>Chooses one of up to eight inputs by a number.</summary>
    /// <formula>out = in1 when k = 1, in2 when k = 2, … (IEC 61131-3 MUX, which counts from 0)</formula>
    /// <units>k is a bare number or a value with named states; all others of one quantity, or on and off.</units>
    /// <status>The status of the chosen input; a fault or released k makes the result a fault or released.</status>
    /// <edges>k must be a whole number of an input: anything else is a fault. An input that is chosen but open is released; those not chosen may be in fault.</edges>
    Mux,
    /// <summary>The first of its inputs that has a usable value.</summary>
    /// <formula>out = in1 where it is usable, else in2, …; which = its number, 0 for none</formula>
    /// <units>One quantity, or on and off; all are converted to the unit of in1.</units>
    /// <status>The status of the input taken. With none usable any fault makes a fault, else it is released; which always says a number.</status>
    /// <edges>Put what is trusted most first.</edges>
    FirstGood,
    /// <summary>Goes on with the last good value for a while when its input has none.</summary>
    /// <formula>out = in while it is usable; else the last usable one, for at most the time</formula>
    /// <units>Keeps the unit, or on and off.</units>
    /// <status>A held value is marked stale. After the time, or when there never was a good value, the common rule.</status>
    /// <edges>A time of 0 holds for ever.</edges>
    /// <start>Nothing is held before the first good value. What is held goes on over a restart; the time in which the controller is off is not counted.</start>
    /// <change>At once: what has been held for longer than a new time is let go.</change>
    HoldGood,
    /// <summary>True while a value has a status.</summary>
    /// <formula>out = (in is in fault, released, stale, held by hand or usable, as chosen)</formula>
    /// <units>Any value in, binary out.</units>
    /// <status>Always on or off, whatever the input is.</status>
    /// <edges>An input left open is released. Released says nothing of a fault: a value in fault is not called released.</edges>
    StatusIs,
    /// <summary>Takes a value over at a moment and holds it.</summary>
    /// <formula>out = in at the scan in which take turned true</formula>
    /// <units>Any value in; the same out.</units>
    /// <status>What is held is good, whatever becomes of its input; while in is not usable nothing is taken over. Before anything was taken it is released.</status>
    /// <edges>A take that is true on the very first scan is no moment.</edges>
    /// <start>Released until something is taken. What is held goes on over a restart.</start>
    Sample,
    /// <summary>Makes a number of up to eight contacts.</summary>
    /// <formula>out = in1 × 1 + in2 × 2 + in3 × 4 + … + in8 × 128</formula>
    /// <units>Binary in, a bare number out.</units>
    /// <status>The common rule.</status>
    /// <edges>Inputs left open count as off. With no input at all the result is released.</edges>
    Bits,
    /// <summary>One bit of a number, such as of a status word.</summary>
    /// <formula>out = (⌊in ÷ 2^bit⌋ is odd); bit 0 is the last</formula>
    /// <units>A whole number from 0 to 65535 in, binary out.</units>
    /// <status>The common rule.</status>
    /// <edges>A number that is not whole, or out of that range, makes a fault.</edges>
    BitOf,
    /// <summary>AND, OR or XOR of two numbers, bit by bit.</summary>
    /// <formula>out = in1 ∧ in2, in1 ∨ in2 or in1 ⊕ in2, for each of 16 bits (IEC 61131-3 AND, OR, XOR of WORD)</formula>
    /// <units>Whole numbers from 0 to 65535.</units>
    /// <status>The common rule.</status>
    /// <edges>A number that is not whole, or out of that range, makes a fault.</edges>
    WordLogic,
    /// <summary>Moves the 16 bits of a number.</summary>
    /// <formula>left and right fill with 0 (IEC 61131-3 SHL, SHR); round takes in at one end what leaves at the other (ROL, ROR)</formula>
    /// <units>Whole numbers from 0 to 65535.</units>
    /// <status>The common rule.</status>
    /// <edges>A number that is not whole, or out of that range, makes a fault.</edges>
    ShiftBits,
    /// <summary>The value in the middle of the inputs that speak.</summary>
    /// <formula>out = the middle one in order of size; of an even number the mean of the two in the middle; up to 8 inputs</formula>
    /// <units>One quantity; all are converted to the unit of in1.</units>
    /// <status>A fault makes a fault. Released inputs are left out; when all are released, so is the result.</status>
    /// <edges>Of three sensors, one that is far off is ignored.</edges>
    Median,
    /// <summary>Rounds to steps.</summary>
    /// <formula>out = step × in ÷ step, made whole: the nearest (half to even, IEC 60559), the next below, above, or towards 0</formula>
    /// <units>Keeps the unit; the step is a difference in it.</units>
    /// <status>The common rule.</status>
    /// <edges>A value that is a whole number of steps but for the last digit stays as it is.</edges>
    Round,
    /// <summary>Division without a fraction, and what is left over.</summary>
    /// <formula>out = in1 ÷ in2, cut off towards 0; rest = in1 − out × in2 (IEC 61131-3: DIV and MOD of integers)</formula>
    /// <units>Both of one quantity, in2 is converted to the unit of in1; out is a bare number, rest has the unit of in1. Temperatures cannot be divided.</units>
    /// <status>The common rule. Division by zero is a fault of both outputs.</status>
    /// <edges>rest has the sign of in1.</edges>
    WholeQuotient,
    /// <summary>A factor times the square root, such as a flow from a pressure difference.</summary>
    /// <formula>out = factor × √in</formula>
    /// <units>The number in the unit it arrives in; the result has the output unit of the block. A temperature is refused.</units>
    /// <status>The common rule.</status>
    /// <edges>A negative input makes a fault, never a number.</edges>
    Root,
    /// <summary>One number to the power of another.</summary>
    /// <formula>out = in1 ^ in2 (IEC 61131-3 EXPT)</formula>
    /// <units>Bare numbers.</units>
    /// <status>The common rule.</status>
    /// <edges>What has no finite real result makes a fault, such as 0 to −1, or the root of a negative number.</edges>
    Power,
    /// <summary>A function of one number.</summary>
    /// <formula>out = ln, log₁₀, eˣ, sin, cos, tan, arcsin, arccos or arctan of in (IEC 61131-3)</formula>
    /// <units>A bare number; for sin, cos and tan an angle (°), or a bare number in radians. The angles that come out are in radians.</units>
    /// <status>The common rule.</status>
    /// <edges>Where the function has no finite real value the result is a fault.</edges>
    Function,
    /// <summary>A number for on and one for off.</summary>
    /// <formula>out = on when in is true, off when it is false</formula>
    /// <units>Binary in; the output unit is chosen on the block.</units>
    /// <status>The common rule.</status>
    /// <edges>None.</edges>
    ToNumber,
    /// <summary>True while a number is not 0.</summary>
    /// <formula>out = (in ≠ 0) (IEC 61131-3: conversion to BOOL)</formula>
    /// <units>Any number in, binary out.</units>
    /// <status>The common rule.</status>
    /// <edges>A measured value is hardly ever exactly 0: use a comparison for it.</edges>
    ToBinary,
    /// <summary>Counts pulses up to a number.</summary>
    /// <formula>count + 1 when count input turns on; reset makes it 0; reached = (count ≥ preset) (IEC 61131-3 CTU)</formula>
    /// <units>Binary in; a bare number.</units>
    /// <status>An input in fault or released counts as no pulse and no request; the count is always good.</status>
    /// <edges>Reset wins. It counts to 1 000 000 000. An input that is on at first is no pulse.</edges>
    /// <start>Starts at 0; the count goes on over a restart.</start>
    /// <change>No jump of the count; a new preset counts from the next scan on.</change>
    CountUp,
    /// <summary>Counts pulses down from a number.</summary>
    /// <formula>count − 1 when count input turns on; load makes it the preset; used up = (count ≤ 0) (IEC 61131-3 CTD)</formula>
    /// <units>Binary in; a bare number.</units>
    /// <status>An input in fault or released counts as no pulse and no request; the count is always good.</status>
    /// <edges>Load wins. Before the first load the count is 0, and so used up.</edges>
    /// <start>Starts at 0; the count goes on over a restart.</start>
    /// <change>No jump of the count; a new preset counts from the next load on.</change>
    CountDown,
    /// <summary>Counts up with one input and down with another, such as people in a room.</summary>
    /// <formula>+ 1 when count up turns on, − 1 when count down does, nothing when both do; reached = (count ≥ preset), none left = (count ≤ 0) (IEC 61131-3 CTUD)</formula>
    /// <units>Binary in; a bare number.</units>
    /// <status>An input in fault or released counts as no pulse and no request; the count is always good.</status>
    /// <edges>Reset wins over load, and load over pulses.</edges>
    /// <start>Starts at 0; the count goes on over a restart.</start>
    /// <change>No jump of the count; a new preset counts from the next scan on.</change>
    CountUpDown,
    /// <summary>A light for a time from each press, with a warning before it goes.</summary>
    /// <formula>out = the time since in last turned on &lt; the length; warning = out, and the end is nearer than the warning time</formula>
    /// <units>Binary in and out; seconds.</units>
    /// <status>An input in fault or released counts as not pressed: the light is always on or off.</status>
    /// <edges>Each press begins the time anew. A length of 0 never turns on. Give the warning to a dimmer or through Blink. An input that is on at first is no press.</edges>
    /// <start>Starts off. Over a restart it goes on with the time that was left.</start>
    /// <change>No jump: a new length counts from the press on, so that one that is over by it ends at once.</change>
    Staircase,
    /// <summary>Runs for a time from a start, and tells how long is left.</summary>
    /// <formula>out = started, and less than the length ago; left = what remains</formula>
    /// <units>Binary in; seconds.</units>
    /// <status>An input in fault or released counts as no request: the result is always on or off.</status>
    /// <edges>Stop ends it and wins. Started again while it runs it begins anew or goes on, as chosen. An input that is on at first is no start.</edges>
    /// <start>Starts off. Over a restart it goes on with the time that was left; time in which the controller is off is not counted.</start>
    /// <change>No jump: a new length counts from the start on, so that one that is over by it ends at once.</change>
    Countdown,
    /// <summary>Goes on and off while its input is on.</summary>
    /// <formula>out = on for the first time of each period while in is true; it begins on</formula>
    /// <units>Binary in and out; seconds.</units>
    /// <status>The common rule. While the input is not usable the time stands still.</status>
    /// <edges>Times shorter than the scan period are missed in part.</edges>
    /// <start>Begins anew, with on, when its input turns on; over a restart it goes on.</start>
    /// <change>At once: the present period is measured by the new times.</change>
    Blink,
    /// <summary>True once something was seen in several windows of time in a row.</summary>
    /// <formula>Windows of one length follow each other; in a row = how many of the last ones had in true at least once; out = (in a row ≥ count)</formula>
    /// <units>Binary in and out; seconds.</units>
    /// <status>The common rule. While the input is not usable the time stands still.</status>
    /// <edges>It changes at the end of a window only. A window without a sighting makes the row 0.</edges>
    /// <start>The first window begins with the first scan. Over a restart it goes on; time in which the controller is off is not counted.</start>
    /// <change>No jump: a new length counts for the window that runs.</change>
    SeenInWindows,
    /// <summary>The mean, least, greatest or median value of the last stretch of time.</summary>
    /// <formula>mean = ∫ in dt ÷ length; least and greatest of the values; median of the means of its parts</formula>
    /// <units>Keeps the unit.</units>
    /// <status>The common rule. While the input is not usable the time stands still and what was gathered stays.</status>
    /// <edges>The stretch is kept in 60 parts: what is older than the length leaves by a 60th of it at a time. Until the length has passed it is over what there is. Between scans a value is taken to stand still.</edges>
    /// <start>Begins with the first value. What was gathered goes on over a restart; time in which the controller is off is not counted.</start>
    /// <change>No jump at once: what was gathered stays, and from then on is taken to be of the new length.</change>
    Window,
    /// <summary>Gives a value later.</summary>
    /// <formula>out(t) = in(t − time)</formula>
    /// <units>Keeps the unit.</units>
    /// <status>The common rule. While the input is not usable the time stands still.</status>
    /// <edges>The stretch is kept in 60 parts, so that a value may come up to a 59th of the time and a scan late, never early. Until the time has passed it gives the first value.</edges>
    /// <start>Begins with the first value. What is on its way goes on over a restart; time in which the controller is off is not counted.</start>
    /// <change>No jump by itself: what is on its way comes in the new time. A time of 0 passes the input on at once.</change>
    DeadTime,
    /// <summary>How long something has run, and how often it has started.</summary>
    /// <formula>hours = ∫ (in is on) dt; starts = how often in turned on</formula>
    /// <units>Binary in; hours and a bare number.</units>
    /// <status>An input in fault or released counts as not running, and coming back from it as no start; what was counted is always good.</status>
    /// <edges>An input that is on at first is no start, but its time counts. Reset makes both 0.</edges>
    /// <start>Starts at 0; goes on over a restart. Time in which the controller is off is not counted.</start>
    RunHours,
    /// <summary>What a rate has come to: an energy of a power, a volume of a flow.</summary>
    /// <formula>out = ∫ in dt</formula>
    /// <units>The product of the rate with time: kWh of a power, m³ of a volume flow, kg of a mass flow, m of a speed; or another unit of it that is chosen on the block. A bare rate counts by the hour.</units>
    /// <status>While the rate is in fault or released nothing is added and the total is marked stale. Stale and overridden pass their mark on.</status>
    /// <edges>A rate is taken to stand still from scan to scan. Reset makes it 0.</edges>
    /// <start>Starts at 0; goes on over a restart. Time in which the controller is off is not counted.</start>
    Total,
    /// <summary>Smooths a value.</summary>
    /// <formula>out + time constant × d out/dt = in; from scan to scan: out + (in − out) × (1 − e^(−Δt ÷ time constant))</formula>
    /// <units>Keeps the unit.</units>
    /// <status>The common rule. While the input is not usable it stands still.</status>
    /// <edges>A time constant of 0 passes the input on. After one time constant 63 % of a step have come through, after three 95 %. The input is taken to stand still between scans, so that at any scan period the result is the same for such an input.</edges>
    /// <start>Begins with the first value; goes on over a restart. Time in which the controller is off is not counted.</start>
    /// <change>No jump, but for a time constant of 0, which passes the input on.</change>
    Filter,
    /// <summary>Follows a value no faster than allowed.</summary>
    /// <formula>out goes towards in by at most so much a minute, up and down each</formula>
    /// <units>Keeps the unit; the rates are differences in it, a minute.</units>
    /// <status>The common rule. While the input is not usable it stands still.</status>
    /// <edges>A rate of 0 follows at once. In front of a controller's setpoint it makes a setpoint ramp.</edges>
    /// <start>Begins with the first value; goes on over a restart. Time in which the controller is off is not counted.</start>
    /// <change>No jump, but for a rate of 0, which follows at once.</change>
    Ramp,
    /// <summary>How fast a value rises or falls.</summary>
    /// <formula>out = d in/dt × the time for the change, behind a first-order filter</formula>
    /// <units>A difference in the unit of in, over the time that is set: K in 3600 s for °C.</units>
    /// <status>The common rule. While the input is not usable it stands still.</status>
    /// <edges>A value in a straight line gives its slope exactly once the filter has settled, at any scan period. Negative when it falls.</edges>
    /// <start>Begins with 0; goes on over a restart. Time in which the controller is off is not counted.</start>
    /// <change>At once for the time for the change, which the result is measured by; no jump for the filter.</change>
    Derivative,
    /// <summary>Follows a value only when it has moved enough.</summary>
    /// <formula>out = in when |in − out| &gt; follows beyond; else it stays</formula>
    /// <units>Keeps the unit; the distance is a difference in it.</units>
    /// <status>The common rule. While the input is not usable it keeps what it gave.</status>
    /// <edges>0 follows always. For a command that must not chatter, or a value that is sent.</edges>
    /// <start>Begins with the first value; goes on over a restart.</start>
    /// <change>At once: what has moved by more than the new distance is followed.</change>
    Deadband,
    /// <summary>Raises or lowers, with a zone in which it does neither.</summary>
    /// <formula>raise when setpoint − measured &gt; zone ÷ 2, until it is ≤ zone ÷ 2 − differential; lower the same the other way; ‘above’ turns both round</formula>
    /// <units>measured and setpoint of one quantity; zone and differential are differences in the unit of measured.</units>
    /// <status>The common rule.</status>
    /// <edges>Never both. A differential of more than half the zone counts as that half.</edges>
    /// <start>Starts with neither; goes on over a restart.</start>
    /// <change>At once: what the new zone asks for.</change>
    ThreePosition,
    /// <summary>Turns stages on and off one after the other as the demand rises and falls.</summary>
    /// <formula>stage k goes on at a demand of 100 × k ÷ stages %, and off at 100 × (k − 1) ÷ stages %</formula>
    /// <units>demand in %; the stages are binary and cumulative, and their number is told.</units>
    /// <status>The common rule. Meanwhile the stage is remembered.</status>
    /// <edges>Between two changes at least the interval passes, up or down. The share of one stage is what keeps it from chattering.</edges>
    /// <start>Starts with none and goes up by one stage an interval. Over a restart it goes on with the stage it had.</start>
    /// <change>At once: with fewer stages those beyond go off.</change>
    Stages,
    /// <summary>Shares one demand out to heating, outside air and cooling, one after the other.</summary>
    /// <formula>heating = (−demand − dead zone ÷ 2) ÷ (100 − dead zone ÷ 2); cooling demand the same above; with free cooling its first share goes to outside air and the rest to cooling</formula>
    /// <units>All in %; demand from −100 (heating) to 100 (cooling).</units>
    /// <status>The common rule. A free cooling that is not usable counts as not allowed.</status>
    /// <edges>Heating and cooling never at once. Without free cooling the cooling takes the whole of its side. A minimum of outside air belongs behind it.</edges>
    SplitRange,
    /// <summary>Chooses the stage of a fan of up to three speeds.</summary>
    /// <formula>stage k goes on above a demand of 100 × (k − 1) ÷ stages + differential %, and off at 100 × (k − 1) ÷ stages %</formula>
    /// <units>demand in %; exactly one stage output is on, or none; the stage is told.</units>
    /// <status>The common rule. Meanwhile the stage is remembered.</status>
    /// <edges>From standstill to a lower stage it runs the highest for the kick first, so that the motor breaks loose.</edges>
    /// <start>Starts standing; over a restart it goes on with the stage it had.</start>
    /// <change>At once: what the new settings ask for.</change>
    FanStages,
    /// <summary>Shares work out among up to four machines by their run hours.</summary>
    /// <formula>of those not in fault the ones with the fewest hours are turned on, and those with the most off; a machine that has run so much longer than one that stands gives way to it</formula>
    /// <units>how many is a bare number, rounded (half to even); run outputs are binary; hours.</units>
    /// <status>The common rule. Meanwhile the machines that run are remembered and their hours stand still. A fault input that is itself in fault, released or open counts as no fault.</status>
    /// <edges>A machine in fault is replaced in the same scan. With fewer machines able than wanted all of them run. At equal hours the lower number goes first. 0 never changes over.</edges>
    /// <start>Starts with none running and no hours; both go on over a restart. Time in which the controller is off is not counted.</start>
    /// <change>At once: what the new settings ask for.</change>
    Rotation,
    /// <summary>Sheds loads one after the other while the power is too high, and brings them back.</summary>
    /// <formula>one more is shed when power &gt; limit for the time; one less when power &lt; limit − differential for the restore time</formula>
    /// <units>power and limit of one quantity; shed outputs are binary and cumulative.</units>
    /// <status>Without a usable power or limit it keeps what is shed, marked stale.</status>
    /// <edges>After each step the time begins anew. Shed 1 goes first and comes back last.</edges>
    /// <start>Starts with nothing shed; goes on over a restart. Time in which the controller is off is not counted.</start>
    /// <change>At once: with fewer loads those beyond come back.</change>
    LoadShed,
    /// <summary>Turns on for a share of each period.</summary>
    /// <formula>in each period on for in ÷ 100 × period, from its beginning</formula>
    /// <units>in in %; seconds.</units>
    /// <status>The common rule. A new period begins when the input is usable again.</status>
    /// <edges>The share is taken at the beginning of a period and holds to its end. An on time shorter than the shortest is left out, an off time shorter than it is filled. The on time is met to one scan period.</edges>
    /// <start>Begins with a period; over a restart it goes on in the one that ran.</start>
    /// <change>At the next period.</change>
    PulseWidth,
    /// <summary>Drives a valve with open and close to where it is wanted.</summary>
    /// <formula>position + 100 % ÷ travel time while it opens, − while it closes; it moves when the wanted position is further off than ‘moves beyond’</formula>
    /// <units>in and position in %; travel time in seconds.</units>
    /// <status>The common rule. Meanwhile it stands.</status>
    /// <edges>At 0 and 100 % it is driven a tenth of its travel time beyond, where it finds itself again. It may be off by what the drive moves in one scan.</edges>
    /// <start>Nobody knows where it is: it is driven shut for its whole way and a tenth more before it goes where it is wanted. Over a restart it goes on from where it was.</start>
    /// <change>No jump; where it is stays as it was.</change>
    ThreePointDrive,
    /// <summary>The characteristic of a valve, one way or the other.</summary>
    /// <formula>equal percentage: flow = R^(lift − 1), 0 at 0; linear: flow = lift; quick opening: flow = √lift (IEC 60534-2-4); or the lift for a flow</formula>
    /// <units>All in %; R is the rangeability.</units>
    /// <status>The common rule.</status>
    /// <edges>Below 0 % and above 100 % the input counts as these. Of an equal percentage valve the least flow that can be controlled is 100 ÷ R %; below it the lift is 0.</edges>
    ValveCurve,
    /// <summary>Tells by the water whether a two-pipe coil can heat or cool.</summary>
    /// <formula>heating above ‘heats above’, until it is below that less the differential; cooling below ‘cools below’, until it is above that and the differential; else neither</formula>
    /// <units>A temperature in; a value with the states neither, heating, cooling.</units>
    /// <status>The common rule.</status>
    /// <edges>The limits must not cross.</edges>
    /// <start>Starts with neither; goes on over a restart.</start>
    /// <change>At once: what the new limits ask for.</change>
    TwoPipe,
    /// <summary>Whether outside air can cool, by its temperature.</summary>
    /// <formula>on when outdoor &lt; extract − ‘colder by’; off when outdoor &gt; extract; not below the lowest outdoor temperature</formula>
    /// <units>Both of one quantity; settings in its unit.</units>
    /// <status>The common rule.</status>
    /// <edges>It comes on only above the lowest by ‘colder by’, so that it does not chatter there.</edges>
    /// <start>Starts off; goes on over a restart.</start>
    /// <change>At once: what the new limits ask for.</change>
    EconomiserTemperature,
    /// <summary>Whether outside air can cool, by its enthalpy.</summary>
    /// <formula>on when h(outdoor) &lt; h(extract) − ‘less by’; off when it is more than h(extract); not below the lowest outdoor temperature. h as in the block Enthalpy</formula>
    /// <units>Temperatures and relative humidities; kJ/kg.</units>
    /// <status>The common rule.</status>
    /// <edges>Air out of the range of the block Enthalpy makes a fault. It comes on only 1 K above the lowest, so that it does not chatter there.</edges>
    /// <start>Starts off; goes on over a restart.</start>
    /// <change>At once: what the new limits ask for.</change>
    EconomiserEnthalpy,
    /// <summary>Demand for fresh air by carbon dioxide.</summary>
    /// <formula>out = (measured − outdoor − begins) ÷ (full − begins), from 0 to 100 %</formula>
    /// <units>ppm; outdoors 420 ppm where nothing is connected.</units>
    /// <status>The common rule.</status>
    /// <edges>Settings are above outdoors, as ventilation only ever dilutes down to that.</edges>
    Co2Demand,
    /// <summary>Whether to flush the building with cool night air.</summary>
    /// <formula>on when not occupied, indoor &gt; ‘down to’ + margin, outdoor &lt; indoor − differential and outdoor ≥ lowest; off when occupied, indoor ≤ ‘down to’, outdoor ≥ indoor − differential ÷ 2 or outdoor &lt; lowest</formula>
    /// <units>Temperatures; settings are differences in their unit.</units>
    /// <status>The common rule.</status>
    /// <edges>None.</edges>
    /// <start>Starts off; goes on over a restart.</start>
    /// <change>At once: what the new limits ask for.</change>
    NightPurge,
    /// <summary>Keeps a coil from freezing: heats in time, and trips.</summary>
    /// <formula>heat = (limit + ‘begins to heat’ − measured) ÷ ‘begins to heat’, from 0 to 100 %; trips when measured &lt; limit for the time; clear when measured &gt; limit + differential</formula>
    /// <units>A temperature; heat in %.</units>
    /// <status>A measurement in fault or released trips at once and heats fully: what cannot see must act. The result is always on or off.</status>
    /// <edges>Tripped, it heats fully. It clears by itself or, as chosen, only by a reset that turns on after the danger is over.</edges>
    /// <start>Starts clear; a trip stands over a restart.</start>
    /// <change>At once: what the new limits ask for.</change>
    Frost,
    /// <summary>Starts early enough to be ready in time, and learns how early that is.</summary>
    /// <formula>lead = distance to the target × learned time for each unit, at most ‘at most’; on when the time until occupied ≤ lead, and while occupied; after each start learned + learns by × (time taken ÷ distance gained − learned)</formula>
    /// <units>measured and target of one quantity; the time until occupied is what a schedule looks ahead, in s.</units>
    /// <status>The common rule. While the time until occupied is not usable it does not start early.</status>
    /// <edges>Learns only from starts that gained more than twice ‘near enough’, and stays within a tenth and ten times the first guess. Once begun it goes on until occupied, or until the time until then is longer than ‘at most’: the start was called off.</edges>
    /// <start>Begins with the first guess; what it learned goes on over a restart and a changed program.</start>
    /// <change>A new first guess is for a block that has not learned yet; all else at once.</change>
    OptimumStart,
    /// <summary>Why the controller's program runs: what a sequence may do after power came back.</summary>
    /// <formula>cause = not known, cold start, warm start, power return, resumed or new program (ISO 16484-5, restart reason); since = how long ago</formula>
    /// <units>A value with named states; seconds.</units>
    /// <status>Always good.</status>
    /// <edges>Use ‘State is’ for one cause, and ‘since’ to do something for a while after it.</edges>
    StartCause,
    /// <summary>How the controller stands.</summary>
    /// <formula>status = operational, or download in progress while another program is on its way (ISO 16484-5, system status)</formula>
    /// <units>A value with named states.</units>
    /// <status>Always good.</status>
    /// <edges>While a controller is not operational none of its blocks run, so that this block can say the other two to nobody: they are there because the standard has them.</edges>
    SystemStatus,
    /// <summary>The time of day and the day of the week.</summary>
    /// <formula>time of day = hours since midnight; day = Monday … Sunday (ISO 8601)</formula>
    /// <units>Hours; a value with named states. By the controller's own clock, in the time zone of the site.</units>
    /// <status>Always good.</status>
    /// <edges>On the day of a clock change an hour is missing or comes twice. What people should be able to change belongs in a schedule.</edges>
    Clock,
    /// <summary>The temperature at which the vapour in the air begins to condense.</summary>
    /// <formula>γ = ln(humidity ÷ 100 × e_w(t) ÷ 6.112 hPa); out = 243.12 γ ÷ (17.62 − γ), with e_w(t) = 6.112 hPa × exp(17.62 t ÷ (243.12 + t)) over water (WMO-No. 8, annex 4.B)</formula>
    /// <units>°C and % relative humidity.</units>
    /// <status>The common rule.</status>
    /// <edges>From −45 to 60 °C and above 0 to 100 %; outside of it the result is a fault. The pressure formula is within 0.6 %, so the dew point within 0.1 K.</edges>
    DewPoint,
    /// <summary>The temperature to which evaporating water cools the air.</summary>
    /// <formula>out = t* with h(t) + (w_s(t*) − w) × 4.186 t* = h_s(t*): adiabatic saturation</formula>
    /// <units>°C and % relative humidity.</units>
    /// <status>The common rule.</status>
    /// <edges>From −45 to 60 °C and 0 to 100 %; outside of it the result is a fault. Found to less than 0.001 K; water, not ice, below 0 °C.</edges>
    WetBulb,
    /// <summary>The heat content of moist air.</summary>
    /// <formula>out = 1.006 t + w × (2501 + 1.86 t), with the humidity ratio w in kg/kg; 0 for dry air at 0 °C</formula>
    /// <units>°C and % relative humidity; kJ for each kg of dry air.</units>
    /// <status>The common rule.</status>
    /// <edges>From −45 to 60 °C and 0 to 100 %; outside of it the result is a fault.</edges>
    Enthalpy,
    /// <summary>How much water is in the air.</summary>
    /// <formula>out = 621.98 × p_v ÷ (p − p_v), with the vapour's pressure p_v = humidity ÷ 100 × e_w(t)</formula>
    /// <units>°C and % relative humidity; g of water for each kg of dry air.</units>
    /// <status>The common rule.</status>
    /// <edges>From −45 to 60 °C and 0 to 100 %; outside of it the result is a fault.</edges>
    HumidityRatio,
    /// <summary>The relative humidity of air with a dew point, such as that of another room's air warmed up.</summary>
    /// <formula>out = 100 × e_w(dew point) ÷ e_w(t)</formula>
    /// <units>°C; % relative humidity.</units>
    /// <status>The common rule.</status>
    /// <edges>A dew point above the temperature makes a fault: such air would already be wet.</edges>
    RelativeHumidity,
    /// <summary>Modes in order of precedence: which one holds now, and what each output says in it.</summary>
    /// <formula>mode = the first row whose condition has held for long enough and that may follow the present one; the last row where none does. Each column gives the cell of the present mode.</formula>
    /// <units>Binary conditions; a mode with named states, seconds in it, a bare count of changes; columns as their cells, which must agree.</units>
    /// <status>Always speaks. A condition that is released or in fault counts as the mode says: as not holding, as holding, or as it was. What ends a mode counts only while it can be read. A column is released where its cell is.</status>
    /// <edges>One change a scan, so that every mode is acted upon, however short. A mode lasts its least time unless one comes that is marked to come at once. A mode that has lasted its most does not come again before its condition has gone. What ends a mode keeps it from coming.</edges>
    /// <start>In the last row, or in the first that begins after this cause of start; its least time does not count then. After a restart it goes on in its mode with its times, in which the time off does not count, unless it is to begin anew.</start>
    /// <change>At once; the present mode and its times stay, also where rows have moved. Where the present mode has gone it begins anew.</change>
    Modes,
    /// <summary>One column of a mode table.</summary>
    /// <formula>out = the input of the present mode</formula>
    /// <units>Whatever the cells are, all alike.</units>
    /// <status>That of the cell; released where it is open.</status>
    /// <edges>It stands for itself in no diagram.</edges>
    ModeValue,
    /// <summary>Blocks taken together as one, with pins and settings of their own.</summary>
    /// <formula>What the blocks inside give.</formula>
    /// <units>As inside.</units>
    /// <status>As inside.</status>
    /// <edges>Nothing inside reaches outside but through the pins.</edges>
    Own,
}
