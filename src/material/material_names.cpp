// What people call materials, and what the library calls them.

#include <firnfield/material.hpp>

#include <algorithm>
#include <array>
#include <cctype>
#include <utility>

namespace firnfield {
namespace {

/// Words as people use them, plain (see below), and names of the library, both separated by "|".
constexpr auto synonyms = std::to_array<std::pair<std::string_view, std::string_view>>({
    {"structuralsteel|mildsteel|constructionalsteel|s235|s235jr|s355|s275|st37|carbonsteel|plainsteel|steel", "steel low carbon|steel S355|steel C45"},
    {"c45|1045|ck45|mediumcarbonsteel|shaftsteel", "steel C45"},
    {"42crmo4|4140|alloysteel|quenchedandtemperedsteel", "steel 42CrMo4"},
    {"100cr6|52100|bearingsteel|ballbearingsteel", "steel 100Cr6"},
    {"toolsteel|hotworksteel|coldworksteel|h13|d2|mouldsteel|moldsteel|p20", "tool steel 1.2343|tool steel 1.2379|tool steel 1.2311"},
    {"1.2344|12344|12343", "tool steel 1.2343"},
    {"highspeedsteel|hss|m2", "high-speed steel 1.3343"},
    {"stainless|stainlesssteel|inox|304|304l|a2|14301|x5crni1810", "stainless steel 1.4301"},
    {"316|316l|a4|14404|14401|marinestainless", "stainless steel 1.4404"},
    {"430|14016|ferriticstainless", "stainless steel 1.4016"},
    {"410|420|14021|14034|martensiticstainless", "stainless steel 1.4021"},
    {"duplex|2205|14462|duplexstainless", "stainless steel 1.4462"},
    {"1.4310|14310|301", "stainless steel 1.4310"},
    {"lowexpansionalloy|1.3912|feni36", "iron-nickel 36"},
    {"castiron|greyiron|grayiron|gjl|gg25|gjl250", "cast iron grey"},
    {"ductileiron|nodulariron|gjs|ggg40|gjs400|spheroidalgraphiteiron", "cast iron nodular"},
    {"aluminium|aluminum|alu|al", "aluminium 6061-T6|aluminium 6082-T6|aluminium 1050|aluminium die-casting alloy"},
    {"a380|adc12|alsi9cu3|226|diecastaluminium|diecastaluminum|castaluminium|castaluminum", "aluminium die-casting alloy|aluminium AlSi9Cu3 casting"},
    {"a356|alsi7mg|alsi7mg03|sandcastaluminium", "aluminium AlSi7Mg casting"},
    {"alsi10mg|alsi12|a413", "aluminium AlSi10Mg casting|aluminium AlSi12 casting"},
    {"alsi10mgprinted|printedaluminium|lasersinteredaluminium|additivealuminium", "aluminium AlSi10Mg printed"},
    {"2024|alcumg", "aluminium 2024-T3"},
    {"7075|alzn", "aluminium 7075-T6"},
    {"6082|almgsi", "aluminium 6082-T6"},
    {"3003|almn", "aluminium 3003"},
    {"zincdiecast|zl0400|zp3|zincalloy|diecastzinc", "zinc die-casting alloy"},
    {"magnesium|magnesiumdiecast|az91d", "magnesium AZ91|magnesium AM60"},
    {"titanium|ti|grade5|ti64|ti6al4v", "titanium Ti-6Al-4V|titanium grade 2"},
    {"cu|etpcopper|ofhc|ofe|electricalcopper|copperbusbar", "copper"},
    {"brass|messing|cuzn39pb3|ms58", "brass CuZn37|brass CuZn39Pb3"},
    {"bronze|tinbronze|phosphorbronze", "bronze CuSn6|bronze CuSn8|bronze CuAl10Ni"},
    {"nickelalloy|superalloy|24856|24816", "nickel-chromium alloy 625|nickel-chromium-iron alloy 600"},
    {"constantan|resistancewire|heatingwire|nichrome", "constantan CuNi44|nickel-chromium 80/20 wire|iron-chromium-aluminium wire"},
    {"hardmetal|cementedcarbide|tungstencarbide|wcco", "tungsten carbide cemented"},
    {"lead|pb", "lead"},
    {"fr4|pcb|printedcircuitboard|circuitboard|glassepoxy|board", "FR-4 laminate|FR-4 board 2 layers|FR-4 board 4 layers|FR-4 board 8 layers"},
    {"imspcb|aluminiumboard|metalcoreboard|imsboard", "metal-core dielectric"},
    {"pa66|nylon|nylon66|polyamide", "polyamide 66|polyamide 6|polyamide 12"},
    {"pa66gf30|pa66gf|glassfillednylon|nylongf30", "polyamide 66 glass 30 %"},
    {"pa6|nylon6|pa6gf30", "polyamide 6|polyamide 6 glass 30 %"},
    {"pa12|printednylon", "polyamide 12"},
    {"pbt|pbtgf30", "polybutylene terephthalate glass 30 %|polybutylene terephthalate"},
    {"pps|ppsgf40", "polyphenylene sulphide glass 40 %"},
    {"pom|acetal|polyacetal", "POM"},
    {"pc", "polycarbonate"},
    {"pcabs|abspc", "ABS-polycarbonate"},
    {"pe|hdpe|ldpe|polythene", "polyethylene high density|polyethylene low density"},
    {"pp|ppgf30", "polypropylene|polypropylene glass 30 %"},
    {"pet|petg|polyester", "PET"},
    {"pei|polyetherimide|lcp|pvdf|pla|asa|tpu", "polyetherimide|liquid-crystal polymer glass 30 %|PVDF|PLA|ASA|thermoplastic polyurethane"},
    {"acrylic|acrylicglass|pmma", "PMMA"},
    {"silicone|siliconrubber|vmq", "silicone rubber|silicone potting"},
    {"rubber|naturalrubber|nr", "EPDM rubber|nitrile rubber|natural rubber"},
    {"borosilicate|labglass|33glass", "borosilicate glass"},
    {"glass|windowglass|floatglass", "soda-lime glass|borosilicate glass|aluminosilicate glass"},
    {"quartz|quartzglass|silicaglass", "fused silica|quartz crystal"},
    {"alumina|aluminiumoxide|aluminumoxide|al2o3|oxideceramic", "alumina 96 %|alumina 99.6 %|sapphire"},
    {"aln", "aluminium nitride"},
    {"magnet|neodymium|ndfeb|permanentmagnet|samariumcobalt|smco|hardferrite", "magnet NdFeB sintered|magnet SmCo|magnet hard ferrite|magnet NdFeB bonded"},
    {"battery|cell|liion|lithiumion|lfp|nmc", "lithium-ion cell pouch|lithium-ion cell cylindrical|lithium-ion cell prismatic|battery separator wet"},
    {"foam|eps|xps|insulation", "expanded polystyrene|extruded polystyrene|polyurethane foam|mineral wool"},
    {"wood|timber|plywood", "spruce|oak|birch plywood|MDF"},
});

/// Lower case without spaces and punctuation; "+" of grades and letters of other scripts stay.
std::string plain(std::string_view text) {
    std::string out;
    for (const char c : text) {
        const auto byte = static_cast<unsigned char>(c);
        if (byte >= 0x80 || std::isalnum(byte) != 0) out += static_cast<char>(std::tolower(byte));
    }
    return out;
}

/// Calls `take` with every piece between "|".
void each_piece(std::string_view list, const auto& take) {
    while (true) {
        const std::size_t end = list.find('|');
        take(list.substr(0, end));
        if (end == std::string_view::npos) return;
        list.remove_prefix(end + 1);
    }
}

}  // namespace

std::vector<std::string> materials_meant_by(std::string_view words) {
    const std::string word = plain(words);
    std::vector<std::string> out;
    if (word.empty()) return out;
    for (const auto& [called, names] : synonyms) {
        bool meant = false;
        each_piece(called, [&](std::string_view piece) { meant = meant || plain(piece) == word; });
        if (!meant) continue;
        each_piece(names, [&](std::string_view name) { out.emplace_back(name); });
        return out;
    }
    constexpr std::size_t shortest = 3;  // letters that can mean anything
    for (const Material& material : builtin_materials()) {
        if (word.size() >= shortest && plain(material.name).find(word) != std::string::npos) out.push_back(material.name);
    }
    return out;
}

}  // namespace firnfield
