using LoftyWren.Core.Sequences;
using LoftyWren.Formats.Logic;

namespace LoftyWren.Formats.Tests.Logic;

/// <summary>Literals by IEC 61131-3, 6.3.3 (numeric literals, tables 5 and 8).</summary>
public class LiteralTests
{
    [Theory]
    [InlineData("-12", -12)]
    [InlineData("123_4", 1234)]
    [InlineData("+986", 986)]
    [InlineData("0.4560", 0.456)]
    [InlineData("3.14159_26", 3.1415926)]
    [InlineData("-1.34E-12", -1.34e-12)]
    [InlineData("1.0E+6", 1e6)]
    [InlineData("2#1111_1111", 255)]
    [InlineData("2#1010", 10)]
    [InlineData("8#377", 255)]
    [InlineData("8#340", 224)]
    [InlineData("16#FF", 255)]
    [InlineData("16#e0", 224)]
    [InlineData("DINT#5", 5)]
    [InlineData("INT#16#7FFF", 32767)]
    [InlineData("uint#16#9_AF", 2479)]
    [InlineData("REAL#-1.5", -1.5)]
    public void A_numeric_literal_is_its_value(string text, double value) => Assert.Equal(new ConstantSource(value), Literals.Read(text));

    [Theory]
    [InlineData("TRUE", true)]
    [InlineData("bool#false", false)]
    [InlineData("BOOL#TRUE", true)]
    [InlineData("BOOL#1", true)]
    [InlineData("BOOL#0", false)]
    public void A_truth_is_one(string text, bool value) => Assert.Equal(new ConstantSource(value ? 1 : 0, null, true), Literals.Read(text));

    [Theory]
    [InlineData("T#1h30m", 5400)]
    [InlineData("TIME#500ms", 0.5)]
    [InlineData("t#-14ms", -0.014)]
    public void A_length_of_time_is_in_seconds(string text, double value) => Assert.Equal(new ConstantSource(value, "s"), Literals.Read(text));

    [Theory]
    [InlineData("2#12")]
    [InlineData("8#9")]
    [InlineData("16#G")]
    [InlineData("3#12")]
    [InlineData("1__2")]
    [InlineData("_1")]
    [InlineData("1_")]
    [InlineData("BOOL#2")]
    [InlineData("STRING#1")]
    [InlineData("16#FFFF_FFFF_FFFF_FFFF_F")]
    [InlineData("Infinity")]
    [InlineData("")]
    public void What_is_none_is_none(string text) => Assert.Null(Literals.Read(text));
}
