// What may be wrong with profiles, thermostats and studies in time.

#include "model/check_time.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "model/checks.hpp"

#include <algorithm>
#include <array>
#include <set>

namespace firnfield {
namespace {

class TimeChecks : Checks {
public:
    explicit TimeChecks(const Model& model) : model_(model) {
        for (const Profile& p : model.profiles) profile_names_.push_back(p.name);
        for (const Study& s : model.studies) study_names_.push_back(s.name);
        for (const Sensor& s : sensors_of(model)) sensor_names_.push_back(s.name);
        for (const Power& p : model.powers) switchable_.push_back(display_name(p));
        for (std::size_t c = 0; c < model.coolings.size(); ++c) switchable_.push_back(display_name(model.coolings[c], c));
        for (std::size_t h = 0; h < model.holds.size(); ++h) hold_names_.push_back(display_name(model.holds[h], h));
    }

    std::vector<Problem> run() {
        check_profiles();
        check_uses();
        check_thermostats();
        for (std::size_t i = 0; i < model_.limits.size(); ++i) {
            check_study_names(fmt::format("limit[{}].studies", i), model_.limits[i].studies);
        }
        for (std::size_t i = 0; i < model_.milestones.size(); ++i) {
            check_study_names(fmt::format("milestone[{}].studies", i), model_.milestones[i].studies);
        }
        for (std::size_t i = 0; i < model_.studies.size(); ++i) {
            const Study& study = model_.studies[i];
            if (!(study.coarsening >= 0.05 && study.coarsening <= 50.0)) {
                report(fmt::format("study[{}].coarsening", i), fmt::format("the coarsening must be 0.05 to 50, found {:g}", study.coarsening));
            }
            if (study.through < 0 || study.through > 100)
                report(fmt::format("study[{}].through", i), fmt::format("the number of cells through a part must be 1 to 100, found {}", study.through));
            if (study.kind != StudyKind::steady) check_study(i);
        }
        return std::move(problems);
    }

private:
    void check_profiles() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.profiles.size(); ++i) {
            const Profile& p = model_.profiles[i];
            const std::string at = fmt::format("profile[{}]", i);
            if (p.name.empty()) report(at + ".name", "a profile needs a name");
            if (!p.name.empty() && !seen.insert(p.name).second)
                report(at + ".name", fmt::format("the name {} is used twice; give each profile its own", in_quotes(p.name)));
            if (p.duty) check_duty(at, *p.duty);
            if (p.sine) {
                check_positive(at + ".sine.period", p.sine->period, "a period");
                for (const double v : {p.sine->mean, p.sine->amplitude, p.sine->delay}) check_finite(at + ".sine", v);
            }
            if (p.gives == CourseOf::temperature) check_temperatures(at, p);
            const int forms = int{p.duty.has_value()} + int{p.sine.has_value()} + int{!p.points.empty()};
            if (forms != 1) report(at, "give a profile exactly one of points, a duty cycle and a sine");
            if (!p.points.empty()) {
                if (const std::string problem = problem_of(p.points); !problem.empty()) {
                    report(at, problem);
                } else if (p.points.at.front() < 0.0) {
                    report(at, "times of a profile must not be negative");
                }
            }
            if ((p.stepped || p.repeat) && p.points.empty()) report(at, "stepped and repeat go with points, temperatures or csv");
        }
    }

    /// What a profile of temperatures gives has to be one.
    void check_temperatures(const std::string& at, const Profile& p) {
        std::vector<double> ends = p.points.value;
        if (p.duty) ends.insert(ends.end(), {p.duty->high, p.duty->low});
        if (p.sine) ends.insert(ends.end(), {p.sine->mean - std::abs(p.sine->amplitude), p.sine->mean + std::abs(p.sine->amplitude)});
        for (const double kelvin : ends) {
            if (!std::isfinite(kelvin) || (kelvin > 0.0 && kelvin <= 5000.0)) continue;  // what is not finite is told elsewhere
            return report(at, fmt::format("profile {} goes to {}, which {}", in_quotes(p.name), show_celsius(kelvin),
                                          kelvin <= 0.0 ? "is at or below absolute zero" : "is beyond what this program is meant for (4700 °C)"));
        }
    }

    void check_duty(const std::string& at, const Duty& duty) {
        check_positive(at + ".on", duty.on, "a time");
        check_positive(at + ".off", duty.off, "a time");
        check_not_negative(at + ".delay", duty.delay, "a time");
        check_not_negative(at + ".ramp", duty.ramp, "a time");
        if (2.0 * duty.ramp > duty.on) report(at + ".ramp", "the rise and the fall must fit into the time that is on");
        if (duty.cycles < 0) report(at + ".cycles", "the number of cycles must not be negative; leave it out for no end");
        check_finite(at + ".high", duty.high);
        check_finite(at + ".low", duty.low);
    }

    /// A reference to a profile of factors, temperatures or powers.
    void check_reference(const std::string& at, const std::string& name, CourseOf gives) {
        static constexpr std::array<std::string_view, 3> words{"factors", "temperatures", "powers"};
        const Profile* profile = find_profile(model_, name);
        if (profile == nullptr) {
            report(at, fmt::format("unknown profile {}{}", in_quotes(name), did_you_mean(name, profile_names_)));
        } else if (profile->gives != gives) {
            report(at, fmt::format("profile {} gives {}; {} are needed here", in_quotes(name), words[static_cast<std::size_t>(profile->gives)],
                                   words[static_cast<std::size_t>(gives)]));
        }
    }

    void check_uses() {
        const auto factors = [&](const std::string& at, const std::vector<std::string>& names) {
            for (const std::string& name : names) {
                const bool of_power = at.starts_with("power") && find_profile(model_, name) != nullptr && find_profile(model_, name)->gives == CourseOf::power;
                check_reference(at, name, of_power ? CourseOf::power : CourseOf::factor);
                const Profile* profile = find_profile(model_, name);
                if (profile != nullptr && at.starts_with("cooling") && goes_below_zero(*profile))
                    report(at, fmt::format("profile {} makes the coefficient negative", in_quotes(name)));
            }
        };
        for (std::size_t i = 0; i < model_.powers.size(); ++i) factors(fmt::format("power[{}].profile", i), model_.powers[i].profile);
        for (std::size_t i = 0; i < model_.coolings.size(); ++i) {
            const Cooling& cooling = model_.coolings[i];
            factors(fmt::format("cooling[{}].profile", i), cooling.profile);
            factors(fmt::format("cooling[{}].radiation_profile", i), cooling.radiation_profile);
            if (!cooling.radiation_profile.empty() && !cooling.radiates())
                report(fmt::format("cooling[{}].radiation_profile", i), "this profile acts on radiation, and the cooling has no emissivity");
            if (!cooling.ambient_profile.empty())
                check_reference(fmt::format("cooling[{}].ambient_profile", i), cooling.ambient_profile, CourseOf::temperature);
            if (!cooling.profile.empty() && !cooling.convection && !cooling.law && cooling.convection_curve.empty()) {
                report(fmt::format("cooling[{}].profile", i), "a profile acts on convection, and this cooling has none");
            }
        }
        for (std::size_t i = 0; i < model_.resistors.size(); ++i) {
            const std::string& profile = model_.resistors[i].ambient_profile;
            if (!profile.empty()) check_reference(fmt::format("resistor[{}].ambient_profile", i), profile, CourseOf::temperature);
        }
        for (std::size_t i = 0; i < model_.holds.size(); ++i) {
            if (!model_.holds[i].profile.empty()) check_reference(fmt::format("hold[{}].profile", i), model_.holds[i].profile, CourseOf::temperature);
        }
        for (std::size_t i = 0; i < model_.studies.size(); ++i) {
            if (!model_.studies[i].ambient_profile.empty())
                check_reference(fmt::format("study[{}].ambient_profile", i), model_.studies[i].ambient_profile, CourseOf::temperature);
        }
    }

    static bool goes_below_zero(const Profile& p) {
        if (p.duty) return p.duty->high < 0.0 || p.duty->low < 0.0;
        if (p.sine) return p.sine->mean < std::abs(p.sine->amplitude);
        return std::any_of(p.points.value.begin(), p.points.value.end(), [](double v) { return v < 0.0; });
    }

    void check_thermostats() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.thermostats.size(); ++i) {
            const Thermostat& t = model_.thermostats[i];
            const std::string at = fmt::format("thermostat[{}]", i);
            if (t.name.empty()) report(at + ".name", "a thermostat needs a name");
            if (!t.name.empty() && !seen.insert(t.name).second)
                report(at + ".name", fmt::format("the name {} is used twice; give each thermostat its own", in_quotes(t.name)));
            if (std::find(sensor_names_.begin(), sensor_names_.end(), t.sensor) == sensor_names_.end()) {
                report(at + ".sensor", fmt::format("unknown sensor {}{}", in_quotes(t.sensor), did_you_mean(t.sensor, sensor_names_)));
            }
            if (t.switches.empty()) report(at + ".switches", "name the powers or coolings that it switches");
            for (const std::string& name : t.switches) {
                if (std::find(switchable_.begin(), switchable_.end(), name) == switchable_.end()) {
                    const bool hold = std::find(hold_names_.begin(), hold_names_.end(), name) != hold_names_.end();
                    report(at + ".switches",
                           hold ? fmt::format("{} is a hold, which cannot be switched; write a cooling with a high coefficient to that temperature instead",
                                              in_quotes(name))
                                : fmt::format("no power or cooling is called {}{}", in_quotes(name), did_you_mean(name, switchable_)));
                }
            }
            if (std::isfinite(t.lower) && std::isfinite(t.upper) && !(t.lower < t.upper)) {
                report(at + ".upper", fmt::format("upper {} must be above lower {}", show_celsius(t.upper), show_celsius(t.lower)));
            }
            check_study_names(at + ".studies", t.studies);
            for (const Study& s : model_.studies) {
                const bool named = std::find(t.studies.begin(), t.studies.end(), s.name) != t.studies.end();
                if (named && s.kind == StudyKind::steady)
                    report(at + ".studies", fmt::format("study {} is steady, and a thermostat acts in time only", in_quotes(s.name)));
            }
        }
    }

    void check_study_names(const std::string& at, const std::vector<std::string>& names) {
        for (const std::string& name : names) {
            if (std::find(study_names_.begin(), study_names_.end(), name) == study_names_.end()) {
                report(at, fmt::format("unknown study {}{}", in_quotes(name), did_you_mean(name, study_names_)));
            }
        }
    }

    void check_study(std::size_t index) {
        const Study& study = model_.studies[index];
        const std::string at = fmt::format("study[{}]", index);
        check_amounts(at, study);
        if (study.method == TimeMethod::reduced && study.kind == StudyKind::steady)
            report(at + ".method", "a steady study marches nothing that could be reduced");
        if (study.method == TimeMethod::reduced && study.fixed_step)
            report(at + ".fixed_step", "a reduced model knows what happens between its steps; leave this out, or write method = \"full\"");
        for (std::size_t i = 0; i < study.fields_at.size(); ++i) {
            if (!(study.fields_at[i] >= 0.0 && study.fields_at[i] <= study.lasts))
                report(fmt::format("{}.fields_at[{}]", at, i), "a time lies outside the study");
        }
        check_start(at, index);
        check_heat_capacities(study);
        if (study.kind == StudyKind::cyclic) check_cyclic(at, study);
        const bool limited = std::any_of(model_.limits.begin(), model_.limits.end(), [&](const Limit& l) { return counts_in(l.studies, study); });
        if (study.stop_when == StopWhen::limits_decided && !limited) {
            report(at + ".stop_when", "no limit counts in this study, so there is nothing to decide; add a [[limit]], or stop when \"steady\"");
        }
        const bool watched = std::any_of(model_.milestones.begin(), model_.milestones.end(), [&](const Milestone& m) { return counts_in(m.studies, study); });
        if (study.stop_when == StopWhen::milestones_passed && !watched) {
            report(at + ".stop_when", "no milestone is told in this study, so there is nothing to pass; add a [[milestone]], or stop when \"steady\"");
        }
    }

    /// What would go on without end is told before it begins.
    void check_amounts(const std::string& at, const Study& study) {
        constexpr double most_steps = 1e6, most_fields = 2000.0;
        const double length = study.kind == StudyKind::cyclic ? study.period ? *study.period : period_of(model_, study).value_or(0.0) : study.lasts;
        for (const auto& [key, step] :
             {std::pair{".fixed_step", study.fixed_step}, std::pair{".longest_step", study.longest_step}, std::pair{".history_every", study.history_every}}) {
            if (step && *step > 0.0 && length / *step > most_steps) {
                report(at + key, fmt::format("that makes {:.2g} steps or rows over {}, more than a million; take a longer one", length / *step,
                                             show_quantity(length, kinds::time)));
            }
        }
        if (study.fields_every && *study.fields_every > 0.0 && length / *study.fields_every > most_fields) {
            report(at + ".fields_every", fmt::format("that makes {:.0f} fields over {}, more than {:.0f}; take a longer interval, or fields_at",
                                                     length / *study.fields_every, show_quantity(length, kinds::time), most_fields));
        }
        for (const Profile* profile : profiles_in(model_, study)) {
            const double edges = edges_within(*profile, length);
            if (edges > most_steps) {
                report(at, fmt::format("profile {} bends {:.2g} times within {}, and every time takes a step of its own: more than a million; take a mean of "
                                       "it, or a shorter study",
                                       in_quotes(profile->name), edges, show_quantity(length, kinds::time)));
            }
        }
    }

    /// How often a profile jumps or bends within a time, s; of a sine, how many steps follow it.
    static double edges_within(const Profile& profile, double length) {
        if (profile.duty) {
            const double cycles = length / std::max(profile.duty->on + profile.duty->off, 1e-300);
            return (profile.duty->ramp > 0.0 ? 4.0 : 2.0) * (profile.duty->cycles > 0 ? std::min<double>(cycles, profile.duty->cycles) : cycles);
        }
        if (profile.sine) return 8.0 * length / std::max(profile.sine->period, 1e-300);
        const double points = static_cast<double>(profile.points.at.size());
        if (!profile.repeat || profile.points.at.size() < 2) return points;
        return points * std::max(1.0, length / std::max(profile.points.at.back() - profile.points.at.front(), 1e-300));
    }

    void check_start(const std::string& at, std::size_t index) {
        const Study& study = model_.studies[index];
        const Start& start = study.start;
        if (start.temperature) check_kelvin(at + ".start", *start.temperature);
        for (const auto& [part, t] : start.parts) {
            check_kelvin(fmt::format("{}.start.{}", at, part), t);
            const bool known = find_node(model_, part) || std::any_of(model_.parts.begin(), model_.parts.end(),
                                                                      [&, &name = part](const Part& p) { return matches_wildcard(name, p.name); });
            if (!known) report(fmt::format("{}.start.{}", at, part), fmt::format("no part or node matches {}", in_quotes(part)));
        }
        if (start.empty() && !study.ambient && study.ambient_profile.empty())
            report(at, "where it starts is not known: give start, or an ambient of the study to start at");
        if (!start.parts.empty() && !start.temperature) {
            const auto require = [&](const char* what, const std::string& name) {
                const bool covered =
                    std::any_of(start.parts.begin(), start.parts.end(), [&](const auto& entry) { return matches_wildcard(entry.first, name); });
                if (!covered) report(at + ".start", fmt::format("{} {} has no start temperature; add \"*\" = … for all others", what, in_quotes(name)));
                return covered;
            };
            for (const Part& p : model_.parts) {
                if (!require("part", p.name)) return;
            }
            for (const Node& n : model_.nodes) {
                if (!require("node", n.name)) return;
            }
        }
        if (start.study.empty() || !start.results.empty()) return;
        const auto found = std::find(study_names_.begin(), study_names_.end(), start.study);
        if (found == study_names_.end()) {
            report(at + ".start", fmt::format("unknown study {}{}", in_quotes(start.study), did_you_mean(start.study, study_names_)));
        } else if (static_cast<std::size_t>(found - study_names_.begin()) >= index) {
            report(at + ".start", fmt::format("study {} comes later; a study starts from an earlier one", in_quotes(start.study)));
        } else if (!same_cells(model_.studies[static_cast<std::size_t>(found - study_names_.begin())], study)) {
            report(at + ".start",
                   fmt::format("study {} has another coarsening or through, so its cells are others; give both the same", in_quotes(start.study)));
        }
    }

    void check_kelvin(const std::string& at, double kelvin) {
        if (check_finite(at, kelvin) && (kelvin <= 0.0 || kelvin > 5000.0)) report(at, fmt::format("{} cannot be a start temperature", show_celsius(kelvin)));
    }

    void check_heat_capacities(const Study& study) {
        if (told_capacities_) return;
        for (std::size_t p = 0; p < model_.parts.size(); ++p) {
            const Material* material = find_material(model_.materials, model_.parts[p].material);
            if (material == nullptr || !model_.parts[p].include) continue;
            const std::string missing = !material->density && !material->specific_heat ? "neither density nor specific heat"
                                        : !material->density                           ? "no density"
                                                                                       : "no specific heat";
            if (material->density && material->specific_heat) continue;
            told_capacities_ = true;
            report(fmt::format("part[{}].material", p), fmt::format("material {} of part {} has {}, which {} needs", in_quotes(material->name),
                                                                    in_quotes(model_.parts[p].name), missing, in_quotes(study.name)));
        }
    }

    void check_cyclic(const std::string& at, const Study& study) {
        for (const Thermostat& t : model_.thermostats) {
            if (!counts_in(t.studies, study)) continue;
            report(at, fmt::format("thermostat {} acts in this study, and its switching does not repeat with a given period: make it a transient "
                                   "study, or name the studies that it acts in "
                                   "(studies = [\"…\"] of the thermostat; elsewhere what it switches is on)",
                                   in_quotes(t.name)));
        }
        const std::optional<double> period = study.period ? study.period : period_of(model_, study);
        for (const Profile* profile : profiles_in(model_, study)) {
            const std::optional<double> own = period_of(*profile);
            if (!own) {
                report(at, fmt::format("profile {} does not repeat, so there is no settled cycle; give it repeat = true, or leave its number of cycles out",
                                       in_quotes(profile->name)));
            } else if (study.period && period && std::abs(*period / *own - std::round(*period / *own)) > 1e-9 * (*period / *own)) {
                report(at + ".period", fmt::format("the period {} is not a whole multiple of that of profile {}, {}", show_quantity(*period, kinds::time),
                                                   in_quotes(profile->name), show_quantity(*own, kinds::time)));
            }
        }
        if (!study.period && !period_of(model_, study)) {
            report(at, "no period: nothing in this study repeats, or profiles of different length do; give period");
        }
    }

    const Model& model_;
    std::vector<std::string> profile_names_, study_names_, sensor_names_, switchable_, hold_names_;
    bool told_capacities_ = false;
};

}  // namespace

std::vector<Problem> check_time(const Model& model) { return TimeChecks(model).run(); }

std::vector<const Profile*> profiles_in(const Model& model, const Study& study) {
    std::vector<const Profile*> used;
    const auto use = [&](const std::string& name) {
        const Profile* profile = find_profile(model, name);
        if (profile != nullptr && std::find(used.begin(), used.end(), profile) == used.end()) used.push_back(profile);
    };
    const Acting acting = acting_in(model, study);
    for (std::size_t p = 0; p < model.powers.size(); ++p) {
        const Power& power = model.powers[p];
        if (!acting.powers[p]) continue;
        const auto scale = study.scale.find(display_name(power));
        if (scale != study.scale.end() && scale->second == 0.0) continue;
        for (const std::string& name : power.profile) use(name);
    }
    for (std::size_t c = 0; c < model.coolings.size(); ++c) {
        const Cooling& cooling = model.coolings[c];
        if (!acting.coolings[c]) continue;
        for (const std::string& name : cooling.profile) use(name);
        for (const std::string& name : cooling.radiation_profile) use(name);
        if (!cooling.ambient_profile.empty()) use(cooling.ambient_profile);
    }
    for (const Resistor& resistor : model.resistors) {
        if (!resistor.ambient_profile.empty()) use(resistor.ambient_profile);
    }
    for (std::size_t h = 0; h < model.holds.size(); ++h) {
        const Hold& hold = model.holds[h];
        if (acting.holds[h] && !hold.profile.empty()) use(hold.profile);
    }
    if (!study.ambient_profile.empty()) use(study.ambient_profile);
    return used;
}

std::optional<double> period_of(const Model& model, const Study& study) {
    std::optional<double> period;
    for (const Profile* profile : profiles_in(model, study)) {
        const auto own = period_of(*profile);
        if (!own) return std::nullopt;
        // The longer one has to hold a whole number of the shorter.
        if (period) {
            const double ratio = std::max(*own, *period) / std::min(*own, *period);
            if (std::abs(ratio - std::round(ratio)) > 1e-9 * ratio) return std::nullopt;
        }
        period = std::max(period.value_or(0.0), *own);
    }
    return period;
}

}  // namespace firnfield
