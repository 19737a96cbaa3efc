// Malformed model files: each has its message, at its line and column.

#include <firnfield/error.hpp>
#include <firnfield/model_file.hpp>

#include <catch2/catch.hpp>

#include <fmt/format.h>

#include <string>
#include <vector>

using namespace firnfield;
using Catch::Matchers::Contains;

namespace {

const std::string good = R"toml(firnfield = 1
title = "Good"
[units]
length = "mm"
temperature = "degC"
[mesh]
cell = 2
through = 2
[[material]]
name = "pad"
conductivity = "3 W/(m K)"
[[part]]
name = "plate"
size = [80, 60, 4]
material = "aluminium 6061-T6"
[[part]]
name = "amplifier"
size = [20, 10, 3]
at = [30, 25, 4]
material = "copper"
repeat = { count = 2, step = [25, 0, 0] }
[[surface]]
name = "under"
parts = ["plate"]
facing = "-z"
[[joint]]
between = ["amplifier", "plate"]
layer = { material = "pad", thickness = "0.5 mm" }
[[power]]
name = "burst"
into = ["amplifier"]
total = "38 W"
[[cooling]]
on = "exposed"
convection = "8 W/(m^2 K)"
ambient = 35
[[limit]]
part = "amplifier"
below = 95
[[study]]
name = "lab"
scale = { burst = 0.5 }
)toml";

struct Mistake {
    const char* what;
    const char* replace;  // this text of the good file …
    const char* by;       // … by this one
    const char* place;    // "line:column" of the message
    const char* says;
};

const std::vector<Mistake> mistakes{
    {"no version", "firnfield = 1\n", "\n", "1:1", "\"firnfield\" is missing; write firnfield = 1"},
    {"future version", "firnfield = 1", "firnfield = 7", "1:13", "reads format version 1"},
    {"unknown key", "total = \"38 W\"", "totl = \"38 W\"", "32:1", "unknown key \"totl\" in [[power]] (did you mean \"total\"?)"},
    {"unknown key far off", "total = \"38 W\"", "wattage = \"38 W\"", "32:1",
     "known here: between by_effusivities density each flux include into name on profile share temperature_factor total"},
    {"unknown section", "[[study]]", "[[studdy]]", "40:3", "unknown key \"studdy\" in the file (did you mean \"study\"?)"},
    {"single brackets", "[[limit]]", "[limit]", "37:1", "write [[limit]] with double brackets"},
    {"wrong dimension", "\"38 W\"", "\"38 mm\"", "32:9", "unit \"mm\" does not measure a power in \"38 mm\" at column 4"},
    {"curve that descends", "\"3 W/(m K)\"", "{ at = [50, 20], value = [\"3 W/(m K)\", \"4 W/(m K)\"] }", "11:16",
     "the places of a curve must ascend; number 2 does not"},
    {"curve with a value too many", "\"3 W/(m K)\"", "{ at = [20, 50], value = [\"3 W/(m K)\", \"4 W/(m K)\", \"5 W/(m K)\"] }", "11:16",
     "as many values as places"},
    {"curve from below nothing", "\"3 W/(m K)\"", "{ at = [20, 50], value = [\"-3 W/(m K)\", \"4 W/(m K)\"] }", "11:16",
     "a conductivity must be positive, found -3"},
    {"curve to nothing", "\"3 W/(m K)\"", "{ at = [20, 50], value = [\"3 W/(m K)\", \"0 W/(m K)\"] }", "9:1", "a conductivity must be positive everywhere"},
    {"curve of one point", "\"8 W/(m^2 K)\"", "{ at = [\"0 K\"], value = [\"8 W/(m^2 K)\"] }", "35:14", "a curve needs at least two points"},
    {"curve over degrees", "\"8 W/(m^2 K)\"", "{ at = [\"0 degC\", \"9 K\"], value = [\"8 W/(m^2 K)\", \"9 W/(m^2 K)\"] }", "35:22",
     "a temperature difference is in K"},
    {"factor without resistance", "layer = {", "resistance_factor = { at = [20, 50], value = [1, 2] } #", "28:21",
     "a factor needs a resistance, coefficient, total or layer"},
    {"film in an unnamed fluid", "layer = {", "coefficient = { law = \"vertical plate\", length = 30 } #", "28:15", "the law of a joint needs a fluid"},
    {"film that is nothing", "layer = {", "coefficient = \"0 W/(m^2 K)\" #", "28:15", "a coefficient must be positive somewhere"},
    {"film of an unknown law", "layer = {", "coefficient = { law = \"slanted plate\", fluid = \"water\" } #", "28:15", "slanted plate"},
    {"negative error target", "cell = 2", "error_target = \"-1 K\"", "7:16", "an error target must be positive"},
    {"no coarsening", "cell = 2", "coarsening = 0", "7:14", "the factor on cell sizes must be 0.01 to 100"},
    {"layer along nothing", "cell = 2", "layers = { along = \"w\", from = 0, to = 1, cell = 1 }", "7:20", "along takes one of \"x\", \"y\" and \"z\""},
    {"layer the wrong way round", "cell = 2", "layers = [{ along = \"x\", from = 3, to = 1, cell = 1 }]", "7:41", "`to` must be larger than `from`"},
    {"layer without a size", "cell = 2", "layers = { along = \"x\", from = 0, to = 1 }", "7:10", "\"cell\" is missing"},
    {"missing unit", "total = \"38 W\"", "total = 38", "32:9", "the number 38 needs a unit: a power such as \"25 W\""},
    {"text without unit", "\"38 W\"", "\"38\"", "32:9", "a number without a unit"},
    {"ambiguous unit", "\"8 W/(m^2 K)\"", "\"8 W/m^2 K\"", "35:14", "ambiguous unit"},
    {"misspelt unit", "\"0.5 mm\"", "\"0.5 mn\"", "28:41", "unknown unit \"mn\""},
    {"difference in degrees", "layer = { material = \"pad\", thickness = \"0.5 mm\" }", "resistance = \"1 degC cm^2/W\"", "28:14",
     "temperature difference is in K"},
    {"unknown material", "\"copper\"", "\"coper\"", "20:12", "unknown material \"coper\" (did you mean \"copper\"?)"},
    {"unknown layer material", "material = \"pad\", thick", "material = \"putty\", thick", "28:22", "unknown material \"putty\""},
    {"duplicate name", "name = \"amplifier\"", "name = \"plate\"", "17:8", "the name \"plate\" is used twice"},
    {"empty name", "name = \"amplifier\"", "name = \"\"", "17:8", "name is empty; write something or leave the key out"},
    {"negative size", "[80, 60, 4]", "[80, -60, 4]", "14:13", "a size must be positive, found -0.06"},
    {"zero size", "[80, 60, 4]", "[80, 60, 0]", "14:17", "a size must be positive, found 0"},
    {"two sizes", "[80, 60, 4]", "[80, 60]", "14:8", "expected three lengths along x, y, z such as [10, 20, 5], found 2 values"},
    {"size as text", "[80, 60, 4]", "\"80 x 60 x 4\"", "14:8", "expected three lengths along x, y, z such as [10, 20, 5], found a text"},
    {"not a number", "[80, 60, 4]", "[80, nan, 4]", "14:13", "found a number that is not finite"},
    {"infinite", "below = 95", "below = inf", "39:9", "found a number that is not finite"},
    {"below absolute zero", "below = 95", "below = -300", "39:9", "temperature -300.00 °C is at or below absolute zero"},
    {"missing material", "material = \"copper\"\n", "\n", "16:1", "[[part]]: \"material\" is missing"},
    {"missing size", "size = [20, 10, 3]\n", "\n", "16:1", "\"size\" is missing; write size = [80, 60, 4]"},
    {"huge count", "count = 2,", "count = 2000000000,", "12:1", "copies in all, more than 20 000"},
    {"zero count", "count = 2,", "count = 0,", "21:20", "a count must be at least 1, found 0"},
    {"fractional count", "count = 2,", "count = 2.5,", "21:20", "count takes a whole number, found a number"},
    {"copies on each other", "step = [25, 0, 0]", "step = [0, 0, 0]", "21:30", "the step is zero"},
    {"unknown part in joint", "between = [\"amplifier\"", "between = [\"amplifer\"", "27:12", "no part matches \"amplifer\" (did you mean \"amplifier\"?)"},
    {"one part in joint", "[\"amplifier\", \"plate\"]", "[\"amplifier\"]", "27:11", "between takes two parts"},
    {"two resistances", "layer = {", "insulated = true\nlayer = {", "26:1", "give only one of resistance, coefficient, resistance_over_pressure, total, layer"},
    {"negative thickness", "\"0.5 mm\"", "\"-0.5 mm\"", "28:41", "a thickness must be positive"},
    {"surface file without a name", "size = [80, 60, 4]", "shape = \"stl\"\nfile = \"\"\nunit = \"mm\"", "15:8", "file is empty"},
    {"empty list", "into = [\"amplifier\"]", "into = []", "31:8", "into is an empty list"},
    {"no such power part", "into = [\"amplifier\"]", "into = [\"amplifier 3\"]", "31:9", "no part matches \"amplifier 3\""},
    {"two amounts", "total = \"38 W\"", "total = \"38 W\"\neach = \"2 W\"", "29:1", "give exactly one of total, each, density and flux"},
    {"flux into a part", "total = \"38 W\"", "flux = \"2 W/m^2\"", "32:8", "a flux acts on a surface"},
    {"unknown surface", "on = \"exposed\"", "on = \"undre\"", "34:6", "unknown surface \"undre\" (did you mean \"under\"?)"},
    {"unknown direction", "facing = \"-z\"", "facing = \"down\"", "25:10",
     "facing takes directions out of \"-x\", \"+x\", \"-y\", \"+y\", \"-z\" and \"+z\", or three numbers; found \"down\""},
    {"reserved surface name", "name = \"under\"", "name = \"exposed\"", "23:8", "\"exposed\" already means"},
    {"no effect", "convection = \"8 W/(m^2 K)\"\n", "\n", "33:1", "a cooling needs a convection coefficient or law, an emissivity, or both"},
    {"cell of a single region", "cell = 2\n", "cell = 2\nregions = { size = [1, 1, 1], cell = -1 }\n", "8:38", "the cell size must be positive, found -0.001"},
    {"axis of a single turn", "size = [80, 60, 4]\n", "size = [80, 60, 4]\nrotate = { angle = 30, axis = [0, 0, 0] }\n", "15:31", "points nowhere"},
    {"range of a picture", "[[study]]\nname = \"lab\"", "[[picture]]\nname = \"p\"\nrange = [-300, 20]\n[[study]]\nname = \"lab\"", "42:10",
     "at or below absolute zero"},
    {"negative coefficient", "\"8 W/(m^2 K)\"", "\"-8 W/(m^2 K)\"", "35:14", "must not be negative"},
    {"emissivity above one", "ambient = 35", "ambient = 35\nemissivity = 1.2", "37:14", "an emissivity must be above 0 and at most 1, found 1.2"},
    {"emissivity word", "ambient = 35", "ambient = 35\nemissivity = \"matte\"", "37:14", "emissivity takes one of \"material\", found \"matte\""},
    {"no ambient anywhere", "ambient = 35\n", "\n", "33:1", "no ambient: give one here, or in study \"lab\""},
    {"unknown law", "\"8 W/(m^2 K)\"", "{ law = \"vertical pate\" }", "35:14", "unknown convection law \"vertical pate\" (did you mean \"vertical plate\"?)"},
    {"law without length", "\"8 W/(m^2 K)\"", "{ law = \"vertical plate\" }", "35:14", "needs length = \"120 mm\""},
    {"law with a speed", "\"8 W/(m^2 K)\"", "{ law = \"vertical plate\", length = 9, speed = \"2 m/s\" }", "35:14", "has no use for speed"},
    {"speed without unit", "\"8 W/(m^2 K)\"", "{ law = \"flat plate\", length = 9, speed = 2 }", "35:56", "a speed such as \"2 m/s\""},
    {"limit on nothing", "part = \"amplifier\"\n", "\n", "37:1", "on a \"sensor\" or on a \"figure\""},
    {"limit without value", "below = 95\n", "\n", "37:1", "a limit needs \"below\", \"above\" or both"},
    {"unknown power in study", "burst = 0.5", "brust = 0.5", "42:19", "unknown power \"brust\" (did you mean \"burst\"?)"},
    {"unit of bare lengths", "length = \"mm\"", "length = \"W\"", "4:10", "\"W\" is not a unit of length"},
    {"bare length without units", "length = \"mm\"\n", "\n", "7:8", "name the units of all bare numbers under [units]"},
    {"through a text", "through = 2", "through = \"two\"", "8:11", "through takes a whole number, found a text"},
    {"through zero", "through = 2", "through = 0", "8:11", "must be 1 to 100, found 0"},
    {"unknown shape", "size = [80, 60, 4]", "shape = \"bx\"\nsize = [80, 60, 4]", "14:9",
     "shape takes one of \"box\", \"cylinder\", \"tube\", \"sphere\", \"cone\", \"prism\", \"revolution\", \"stl\" and \"step\", found \"bx\" (did you mean "
     "\"box\"?)"},
    {"tube with nothing left", "size = [80, 60, 4]", "shape = \"tube\"\nouter_diameter = 8\ninner_diameter = 9\nlength = 3", "16:18",
     "the inner diameter 9.00 mm must be smaller than the outer one, 8.00 mm"},
    {"radius and diameter", "size = [80, 60, 4]", "shape = \"sphere\"\nradius = 8\ndiameter = 9", "16:12", "radius and diameter say the same; give one"},
    {"cylinder without length", "size = [80, 60, 4]", "shape = \"cylinder\"\ndiameter = 9", "12:1", "length"},
    {"outline of two corners", "size = [80, 60, 4]", "shape = \"prism\"\nlength = 4\noutline = [[0, 0], [1, 0]]", "16:11",
     "an outline needs at least three corners, or two and an arc; found 2"},
    {"outline that crosses itself", "size = [80, 60, 4]", "shape = \"prism\"\nlength = 4\noutline = [[0, 0], [1, 1], [1, 0], [0, 1]]", "16:11",
     "the outline crosses itself"},
    {"corner of three numbers", "size = [80, 60, 4]", "shape = \"prism\"\nlength = 4\noutline = [[0, 0, 0], [1, 1], [1, 0]]", "16:12",
     "a corner takes two lengths"},
    {"surface file that is not there", "size = [80, 60, 4]", "shape = \"stl\"\nfile = \"none.stl\"\nunit = \"mm\"", "15:8",
     "cannot read \"none.stl\": does the file exist?"},
    {"surface file without a unit", "size = [80, 60, 4]", "shape = \"stl\"\nfile = \"none.stl\"", "12:1", "unit"},
    {"turn about nothing", "size = [80, 60, 4]", "size = [80, 60, 4]\nrotate = { angle = 3, axis = [0, 0, 0] }", "15:30", "a direction needs a length"},
    {"face that does not exist", "facing = \"-z\"", "sides = \"under\"", "25:9",
     "no such face: \"under\"; there are \"-x\", \"+x\", \"-y\", \"+y\", \"-z\", \"+z\" and \"inner\""},
    {"box in a revolved model", "[mesh]", "[space]\nkind = \"revolved\"\n[mesh]", "14:1",
     "in a revolved model every shape is a cylinder, tube, cone, sphere or revolution about the z axis itself"},
    {"plane without depth", "[mesh]", "[space]\nkind = \"plane\"\n[mesh]", "6:1", "depth"},
    {"sector of one piece", "[mesh]", "[sector]\npieces = 1\n[mesh]", "7:10", "a full turn can have 2 to 360 equal sectors, found 1"},
    {"material of two axes", "\"3 W/(m K)\"", "[\"3 W/(m K)\", \"4 W/(m K)\"]", "11:16", "one value, or three along x, y, z; found 2"},
    {"zero conductivity", "\"3 W/(m K)\"", "\"0 W/(m K)\"", "11:16", "a conductivity must be positive"},
    {"hole outside", "material = \"copper\"", "material = \"copper\"\nholes = { size = [1, 1, 1], at = [30, 0, 0] }", "21:9",
     "the hole lies outside its part along x"},
    {"key twice", "title = \"Good\"", "title = \"Good\"\ntitle = \"Bad\"", "3:", "not readable as TOML"},
    {"unterminated text", "title = \"Good\"", "title = \"Good", "2:", "not readable as TOML"},
    {"bytes that are not UTF-8", "title = \"Good\"", "title = \"Go\xff\xfe\"", "2:", "not readable as TOML"},
    {"melting the wrong way round", "name = \"pad\"\n", "name = \"pad\"\nmelting = { from = 60, to = 50, latent_heat = \"200 kJ/kg\" }\n", "11:29",
     "`to` must not be below `from`"},
    {"melting that gives heat", "name = \"pad\"\n", "name = \"pad\"\nmelting = { from = 50, to = 60, latent_heat = \"-200 kJ/kg\" }\n", "11:47",
     "a latent heat must be positive"},
    {"validity the wrong way round", "name = \"pad\"\n", "name = \"pad\"\nvalid = [150, -40]\n", "11:9", "the lower end of a validity range comes first"},
    {"factor of heat that is nothing", "name = \"pad\"\n", "name = \"pad\"\nspecific_heat_factor = { at = [20, 50], value = [1, 0] }\n", "11:24",
     "must be positive everywhere"},
    {"fluid of a known name", "[[part]]\nname = \"plate\"",
     "[[fluid]]\nname = \"water\"\nconductivity = \"0.6 W/(m K)\"\ndensity = \"990 kg/m^3\"\nviscosity = \"0.7 mPa s\"\nspecific_heat = \"4180 J/(kg "
     "K)\"\nexpansion = \"3e-4 1/K\"\n[[part]]\nname = \"plate\"",
     "13:8", "is a fluid already"},
    {"fluid that misses a property", "[[part]]\nname = \"plate\"",
     "[[fluid]]\nname = \"brine\"\nconductivity = \"0.6 W/(m K)\"\ndensity = \"990 kg/m^3\"\nspecific_heat = \"4180 J/(kg K)\"\nexpansion = \"3e-4 "
     "1/K\"\n[[part]]\nname = \"plate\"",
     "12:1", "\"viscosity\" is missing"},
    {"fluid that flows by itself", "[[part]]\nname = \"plate\"",
     "[[fluid]]\nname = \"brine\"\nconductivity = \"0.6 W/(m K)\"\ndensity = \"990 kg/m^3\"\nviscosity = \"-0.7 mPa s\"\nspecific_heat = \"4180 J/(kg "
     "K)\"\nexpansion = \"3e-4 1/K\"\n[[part]]\nname = \"plate\"",
     "12:1", "must be positive everywhere"},
    {"error target of nothing", "cell = 2\n", "cell = 2\nerror_target = \"1e-9 K\"\n", "8:16", "no mesh resolves temperatures to"},
    {"name with an end of line", "name = \"amplifier\"", "name = \"amp\\nlifier\"", "17:8", "holds the control character"},
    {"name that commands a terminal", "name = \"burst\"", "name = \"bu\\u001brst\"", "30:8", "holds the control character"},
    {"section that looks nowhere", "[[study]]\nname = \"lab\"",
     "[[picture]]\nname = \"p\"\nsection = { normal = [0, 0, 0], through = [1, 1, 1] }\n[[study]]\nname = \"lab\"", "42:22", "points nowhere"},
    {"surface file without a name", "size = [80, 60, 4]", "shape = \"stl\"\nfile = \"\"\nunit = \"mm\"", "15:8", "file is empty"},
    {"empty list", "into = [\"amplifier\"]", "into = []", "31:8", "into is an empty list"},
    {"nothing in a list", "into = [\"amplifier\"]", "into = [\"amplifier\", \"\"]", "31:22", "into names nothing here"},
};

std::vector<Problem> problems_of(const std::string& text) {
    try {
        static_cast<void>(read_model_text(text));
    } catch (const ModelError& error) {
        return error.problems();
    }
    return {};
}

}  // namespace

// What goes with time stands behind the good file, from line 60 on.
static const std::string in_time = R"toml([[sensor]]
name = "tip"
in = "plate"
at = [1, 1, 1]
[[profile]]
name = "pulse"
on = "60 s"
off = "180 s"
[[profile]]
name = "air"
temperatures = [["0 s", -10], ["1 h", 5]]
[[thermostat]]
name = "oven"
sensor = "tip"
switches = ["burst"]
lower = 40
upper = 45
[[study]]
name = "day"
kind = "transient"
ambient = 20
lasts = "2 h"
start = 20
[[study]]
name = "evening"
kind = "transient"
ambient = 20
lasts = "2 h"
start = { study = "day" }
)toml";

static const std::vector<Mistake> mistakes_in_time{
    {"duty without off", "off = \"180 s\"\n", "\n", "47:1", "off"},
    {"duty that never is on", "on = \"60 s\"", "on = \"0 s\"", "49:6", "a time must be positive"},
    {"ramps longer than on", "on = \"60 s\"", "on = \"60 s\"\nramp = \"40 s\"", "50:8", "must fit into the time that is on"},
    {"two forms at once", "off = \"180 s\"", "off = \"180 s\"\npoints = [[\"0 s\", 0], [\"1 s\", 1]]", "47:1", "exactly one of"},
    {"time without a unit", "[\"0 s\", -10]", "[0, -10]", "53:18", "unit"},
    {"times that go back", "[\"1 h\", 5]", "[\"0 s\", 5]", "51:1", "must ascend"},
    {"factor where a temperature belongs", "ambient = 20\nlasts = \"2 h\"\nstart = 20", "ambient_profile = \"pulse\"\nlasts = \"2 h\"\nstart = 20", "63:19",
     "gives factors; temperatures are needed here"},
    {"unknown profile", "start = 20", "start = 20\nambient_profile = \"aire\"", "66:19", "unknown profile \"aire\" (did you mean \"air\"?)"},
    {"unknown sensor", "sensor = \"tip\"", "sensor = \"tap\"", "56:10", "unknown sensor \"tap\""},
    {"nothing of that name to switch", "switches = [\"burst\"]", "switches = [\"bust\"]", "57:12",
     "no power or cooling is called \"bust\" (did you mean \"burst\"?)"},
    {"limits the wrong way round", "upper = 45", "upper = 35", "59:9", "must be above lower"},
    {"no length of time", "lasts = \"2 h\"\nstart = 20", "start = 20", "60:1", "lasts"},
    {"length in kelvin", "lasts = \"2 h\"\nstart = 20", "lasts = \"2 K\"\nstart = 20", "64:9", "does not measure a time"},
    {"kind that does not exist", "kind = \"transient\"", "kind = \"dynamic\"", "62:8", "kind takes one of"},
    {"start from later", "start = 20", "start = { study = \"evening\" }", "65:9", "comes later"},
    {"start from nowhere", "{ study = \"day\" }", "{ study = \"dusk\" }", "71:9", "unknown study \"dusk\""},
    {"part that cannot start", "start = 20", "start = { fan = 20 }", "65:", "no part or node matches \"fan\""},
    {"not everything starts", "start = 20", "start = { plate = 20 }", "65:9", "has no start temperature; add \"*\""},
    {"thermostat below absolute zero", "lower = 40", "lower = -400", "58:9", "at or below absolute zero"},
    {"negative tolerance", "start = 20", "start = 20\ntolerance = \"-1 K\"", "66:13", "a tolerance must be positive"},
    {"cycle without a period", "kind = \"transient\"\nambient = 20\nlasts = \"2 h\"\nstart = 20", "kind = \"cyclic\"\nambient = 20\nstart = 20", "60:1",
     "no period"},
    {"field after the end", "start = 20", "start = 20\nfields_at = [\"3 h\"]", "66:14", "lies outside the study"},
    {"unknown study of a limit", "below = 95", "below = 95\nstudies = [\"nite\"]", "40:11", "unknown study \"nite\""},
    {"steady key in time", "lasts = \"2 h\"\nstart = 20", "last = \"2 h\"\nstart = 20", "64:1", "unknown key \"last\""},
    {"material without heat capacity", "material = \"copper\"", "material = \"pad\"", "20:12", "has neither density nor specific heat"},
    {"table file that is not there", "temperatures = [[\"0 s\", -10], [\"1 h\", 5]]", "csv = { file = \"none.csv\", unit = \"degC\" }", "53:7",
     "cannot read \"none.csv\""},
    {"profile below absolute zero", "[\"1 h\", 5]", "[\"1 h\", -300]", "51:1", "at or below absolute zero"},
    {"thermostat in a cycle", "kind = \"transient\"\nambient = 20\nlasts = \"2 h\"\nstart = 20",
     "kind = \"cyclic\"\nperiod = \"240 s\"\nambient = 20\nstart = 20", "60:1", "does not repeat with a given period"},
    {"thermostat in a steady study", "upper = 45", "upper = 45\nstudies = [\"lab\"]", "60:11", "a thermostat acts in time only"},
    {"steps of a nanosecond", "start = 20", "start = 20\nlongest_step = \"1 ns\"", "66:16", "more than a million"},
    {"fields without number", "start = 20", "start = 20\nfields_every = \"1 ms\"", "66:16", "more than 2000"},
    {"start below absolute zero", "start = 20", "start = -300", "65:9", "cannot be a start temperature"},
    {"column file without a name", "temperatures = [[\"0 s\", -10], [\"1 h\", 5]]", "csv = { file = \"\" }", "53:16", "file is empty"},
};

TEST_CASE("the good file is good", "[io]") {
    CHECK(problems_of(good).empty());
    CHECK(problems_of(good + in_time).empty());
}

/// Every mistake, put into a file that is good but for it, is told at its place.
static void check_mistakes(const std::string& base, const std::vector<Mistake>& list) {
    for (const Mistake& m : list) {
        INFO(m.what);
        std::string text = base;
        const std::size_t at = text.find(m.replace);
        REQUIRE(at != std::string::npos);
        text.replace(at, std::string(m.replace).size(), m.by);
        const std::vector<Problem> problems = problems_of(text);
        REQUIRE_FALSE(problems.empty());
        std::string all;
        bool found = false;
        for (const Problem& p : problems) {
            all += p.location + ": " + p.message + "\n";
            const std::string place = std::string("model.toml:") + m.place;
            found = found || (p.location.starts_with(place) && p.message.find(m.says) != std::string::npos);
        }
        INFO(all);
        CHECK(found);
        // One mistake is not told over and over; a lost name is missed by the three entries that use it.
        CHECK(problems.size() <= 4);
    }
}

TEST_CASE("every malformed file gets its message, at its place", "[io]") {
    CHECK(mistakes.size() >= 40);
    check_mistakes(good, mistakes);
    check_mistakes(good + in_time, mistakes_in_time);
}

TEST_CASE("what is wrong with a study as a whole is told", "[io]") {
    const auto told = [](std::string text, const std::vector<std::pair<std::string, std::string>>& changes) {
        for (const auto& [from, to] : changes) {
            REQUIRE(text.find(from) != std::string::npos);
            text.replace(text.find(from), from.size(), to);
        }
        std::string all;
        for (const Problem& p : problems_of(text)) all += p.location + ": " + p.message + "\n";
        return all;
    };
    const std::string transient = "kind = \"transient\"\nambient = 20\nlasts = \"2 h\"\nstart = 20";
    const std::pair<std::string, std::string> elsewhere{"upper = 45", "upper = 45\nstudies = [\"evening\"]"};
    CHECK_THAT(told(good + in_time, {{"[[limit]]\npart = \"amplifier\"\nbelow = 95\n", ""}, {"start = 20", "start = 20\nstop_when = \"all limits decided\""}}),
               Contains("63:13: no limit counts in this study"));
    CHECK_THAT(told(good + in_time, {{transient, "kind = \"cyclic\"\nperiod = \"100 s\"\nambient = 20\nstart = 20"},
                                     {"total = \"38 W\"", "total = \"38 W\"\nprofile = \"pulse\""},
                                     elsewhere}),
               Contains("not a whole multiple of that of profile \"pulse\""));
    CHECK_THAT(told(good + in_time, {{transient, "kind = \"cyclic\"\nperiod = \"240 s\"\nambient_profile = \"air\"\nstart = 20"}, elsewhere}),
               Contains("\"air\" does not repeat"));
}

TEST_CASE("a text without a file opens none", "[io]") {
    const std::string text = good + "[[profile]]\nname = \"p\"\ncsv = { file = \"/etc/hostname\" }\n";
    try {
        static_cast<void>(read_model_text(text, ""));
        FAIL("read");
    } catch (const ModelError& error) {
        CHECK_THAT(error.what(), Contains("\"/etc/hostname\" is not looked for") && Contains("text:"));
    }
}

TEST_CASE("all mistakes of a file are told in one go, in its order", "[io]") {
    std::string text = good;
    for (const auto& [from, to] : std::vector<std::pair<std::string, std::string>>{
             {"cell = 2", "cell = -2"}, {"\"38 W\"", "\"38 V\""}, {"\"copper\"", "\"coper\""}, {"below = 95", "blow = 95"}}) {
        text.replace(text.find(from), from.size(), to);
    }
    const std::vector<Problem> problems = problems_of(text);
    REQUIRE(problems.size() >= 4);
    CHECK(problems[0].location == "model.toml:7:8");
    CHECK(problems[1].location == "model.toml:20:12");
    CHECK(problems[2].location == "model.toml:32:9");
    CHECK(problems[3].location == "model.toml:39:1");
}

TEST_CASE("a misread value hides neither its neighbours' mistakes nor makes new ones", "[io]") {
    std::string text = good;
    for (const auto& [from, to] : std::vector<std::pair<std::string, std::string>>{
             {"[20, 10, 3]", "[20, 10, \"3 W\"]"}, {"\"copper\"", "\"coper\""}, {"\"8 W/(m^2 K)\"", "8"}, {"\"exposed\"", "\"skin\""}}) {
        text.replace(text.find(from), from.size(), to);
    }
    const std::vector<Problem> problems = problems_of(text);
    REQUIRE(problems.size() == 4);
    CHECK(problems[0].location == "model.toml:18:17");
    CHECK(problems[1].location == "model.toml:20:12");
    CHECK(problems[2].location == "model.toml:34:6");
    CHECK(problems[3].location == "model.toml:35:14");
}

TEST_CASE("deep nesting and large nonsense are refused, not followed", "[io]") {
    std::string deep = "firnfield = 1\nx = ";
    for (int i = 0; i < 100000; ++i) deep += '[';
    CHECK_FALSE(problems_of(deep).empty());
    CHECK_FALSE(problems_of(std::string(1000, '\0')).empty());
    CHECK_FALSE(problems_of("").empty());
    CHECK_FALSE(problems_of(std::string("firnfield = 1\n") + std::string(100000, 'a') + " = 1\n").empty());
}

TEST_CASE("mistakes found while meshing are placed in the file, too", "[io]") {
    const std::vector<Problem> problems{{.address = "joint[0].between", .message = "do not touch", .location = {}},
                                        {.address = "cooling[0].on", .message = "nothing", .location = {}}};
    const std::vector<Problem> placed = locate_problems(good, "radar.toml", problems);
    REQUIRE(placed.size() == 2);
    CHECK(placed[0].location == "radar.toml:27:11");
    CHECK(placed[1].location == "radar.toml:34:6");
}
