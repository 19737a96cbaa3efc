// Expressions of a model file: their grammar, checked before anything is worked out, and their units.

#include "base/expression.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

namespace firnfield {
namespace {

bool is_digit(char c) { return c >= '0' && c <= '9'; }
bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }
/// Of the name of a unit, "µm" and "%" included.
bool is_of_unit(char c) { return is_letter(c) || c == '%' || static_cast<unsigned char>(c) >= 0x80; }

struct Function {
    std::string_view name;
    int least, most;  ///< number of arguments
};
constexpr int any_number = 100;
constexpr std::array functions{Function{"sqrt", 1, 1},  Function{"abs", 1, 1},  Function{"min", 1, any_number}, Function{"max", 1, any_number},
                               Function{"sin", 1, 1},   Function{"cos", 1, 1},  Function{"tan", 1, 1},          Function{"asin", 1, 1},
                               Function{"acos", 1, 1},  Function{"atan", 1, 1}, Function{"atan2", 2, 2},        Function{"sinh", 1, 1},
                               Function{"cosh", 1, 1},  Function{"tanh", 1, 1}, Function{"exp", 1, 1},          Function{"ln", 1, 1},
                               Function{"log10", 1, 1}, Function{"log2", 1, 1}, Function{"rint", 1, 1},         Function{"sign", 1, 1}};

/// Where the words of a unit end that begin at `at`: "K cm^2/W", "W/(m^2 K)". A "/" belongs to it when no blank is around it.
std::size_t end_of_unit(std::string_view text, std::size_t at) {
    const auto end_of_word = [&](std::size_t begin) {
        std::size_t end = begin;
        while (end < text.size() && is_of_unit(text[end])) ++end;
        if (end > begin && end + 1 < text.size() && text[end] == '^' && is_digit(text[end + 1])) end += 2;
        return end;
    };
    std::size_t end = end_of_word(at);
    while (end > at && end + 1 < text.size() && text[end] == ' ' && is_of_unit(text[end + 1])) end = end_of_word(end + 1);
    if (end == at || end + 1 >= text.size() || text[end] != '/') return end;
    if (text[end + 1] != '(') return is_of_unit(text[end + 1]) ? end_of_word(end + 1) : end;
    const std::size_t close = text.find(')', end);
    return close == std::string_view::npos ? end : close + 1;
}

/// The quantity at the beginning of a text, and its length: as much of it as makes a unit.
std::optional<std::pair<Measured, std::size_t>> longest_quantity(std::string text) {
    while (true) {
        try {
            return std::pair{parse_measured(text), text.size()};
        } catch (const QuantityError&) {
            const std::size_t cut = text.find_last_of(" /");
            if (cut == std::string::npos || cut == 0) return std::nullopt;
            text.erase(cut);
        }
        if (text.find_first_not_of("0123456789.eE+- ") == std::string::npos) return std::nullopt;  // a number alone
    }
}

class Reader {
public:
    explicit Reader(std::string_view text) : text_(text) {}

    Expression read() {
        constexpr std::size_t longest = 4000;
        if (text_.size() > longest) fail(fmt::format("an expression has at most {} characters, found {}", longest, text_.size()));
        choice();
        if (!at_end()) fail(fmt::format("unexpected {}; an operator or the end is expected", rest()));
        return std::move(out_);
    }

private:
    [[noreturn]] static void fail(const std::string& what) { throw QuantityError(what, 1); }

    void skip_blanks() {
        while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t')) ++at_;
    }
    bool at_end() {
        skip_blanks();
        return at_ >= text_.size();
    }
    /// What stands here, for messages.
    std::string rest() {
        skip_blanks();
        if (at_ >= text_.size()) return "end";
        constexpr std::size_t enough = 16;
        const std::string_view here = text_.substr(at_, enough);
        return in_quotes(std::string(here) + (text_.size() - at_ > enough ? "…" : ""));
    }

    /// The operator that stands here, taken, when it is one of these. Longer ones come first.
    std::string_view take(std::initializer_list<std::string_view> operators) {
        skip_blanks();
        for (const std::string_view o : operators) {
            if (!text_.substr(at_).starts_with(o)) continue;
            at_ += o.size();
            return o;
        }
        return {};
    }
    void put(std::string_view what) { out_.form += what; }

    /// Guards against nesting without end.
    struct Level {
        explicit Level(Reader& reader) : reader_(reader) {
            constexpr int deepest = 100;
            if (++reader_.depth_ > deepest) fail(fmt::format("parentheses, signs and choices lie more than {} deep in each other", deepest));
        }
        ~Level() { --reader_.depth_; }
        Level(const Level&) = delete;
        Level& operator=(const Level&) = delete;
        Reader& reader_;
    };

    void choice() {
        const Level level(*this);
        either();
        if (take({"?"}).empty()) return;
        put("?");
        choice();
        if (take({":"}).empty()) fail(fmt::format("\":\" is expected for what else counts, found {}", rest()));
        put(":");
        choice();
    }
    void either() {
        both();
        while (!take({"||"}).empty()) put("||"), both();
    }
    void both() {
        compare();
        while (!take({"&&"}).empty()) put("&&"), compare();
    }
    void compare() {
        sum();
        const std::string_view o = take({"<=", ">=", "==", "!=", "<", ">"});
        if (o.empty()) return;
        put(o);
        sum();
    }
    void sum() {
        product();
        for (std::string_view o = take({"+", "-"}); !o.empty(); o = take({"+", "-"})) put(o), product();
    }
    void product() {
        with_sign();
        for (std::string_view o = take({"*", "/"}); !o.empty(); o = take({"*", "/"})) put(o), with_sign();
    }
    void with_sign() {
        const std::string_view sign = take({"+", "-"});
        if (sign.empty()) return power();
        const Level level(*this);
        if (sign == "-") {
            put("(-");
            with_sign();
            put(")");
        } else {
            with_sign();
        }
    }
    void power() {
        const std::size_t begin = out_.form.size();
        operand();
        if (take({"^"}).empty()) return;
        const Level level(*this);
        out_.form.insert(begin, "(");
        put("^");
        with_sign();
        put(")");
    }

    void operand() {
        if (at_end()) fail("a value is expected at the end");
        const char c = text_[at_];
        if (is_digit(c) || (c == '.' && at_ + 1 < text_.size() && is_digit(text_[at_ + 1]))) return number();
        if (is_letter(c) || c == '_') return name();
        if (c == '\'') return quoted();
        if (take({"("}).empty()) fail(fmt::format("a value is expected, found {}", rest()));
        put("(");
        choice();
        if (take({")"}).empty()) fail(fmt::format("\")\" is expected, found {}", rest()));
        put(")");
    }

    void number() {
        double value = 0.0;
        const auto parsed = std::from_chars(text_.data() + at_, text_.data() + text_.size(), value);
        if (parsed.ec != std::errc() || !std::isfinite(value)) fail(fmt::format("a number is expected, found {}", rest()));
        const std::size_t end = static_cast<std::size_t>(parsed.ptr - text_.data());
        std::size_t unit = end;
        while (unit < text_.size() && text_[unit] == ' ') ++unit;
        const std::size_t unit_end = end_of_unit(text_, unit);
        // What only looks like a unit ("2 fins") stays, and is no operator.
        if (const auto found = unit_end > unit ? longest_quantity(std::string(text_.substr(at_, unit_end - at_))) : std::nullopt) {
            add({found->first, {}});
            at_ += found->second;
        } else {
            add({{value, {}}, {}});
            at_ = end;
        }
    }

    void name() {
        std::size_t end = at_;
        while (end < text_.size() && (is_letter(text_[end]) || is_digit(text_[end]) || text_[end] == '_')) ++end;
        const std::string word(text_.substr(at_, end - at_));
        at_ = end;
        if (take({"("}).empty()) return add({{}, word});
        const auto function = std::find_if(functions.begin(), functions.end(), [&](const Function& f) { return f.name == word; });
        if (function == functions.end()) {
            std::vector<std::string> known;
            for (const Function& f : functions) known.emplace_back(f.name);
            fail(fmt::format("no function is called {}{}; there are {}", in_quotes(word), did_you_mean(word, known), quoted_list(known, known.size())));
        }
        put(word);
        put("(");
        int count = 0;
        do {
            if (count++ > 0) put(",");
            choice();
        } while (!take({","}).empty());
        if (take({")"}).empty()) fail(fmt::format("\")\" is expected, found {}", rest()));
        if (count < function->least || count > function->most) {
            fail(fmt::format("{} takes {} value{}, found {}", word, function->least == function->most ? fmt::format("{}", function->least) : "one or more",
                             function->most == 1 ? "" : "s", count));
        }
        put(")");
    }

    void quoted() {
        const std::size_t end = text_.find('\'', at_ + 1);
        if (end == std::string_view::npos) fail(fmt::format("a name in quotes ends with \"'\", found {}", rest()));
        if (end == at_ + 1) fail("a name in quotes is empty");
        add({{}, std::string(text_.substr(at_ + 1, end - at_ - 1))});
        at_ = end + 1;
    }

    void add(Expression::Operand operand) {
        out_.operands.push_back(std::move(operand));
        put(operand_name(out_.operands.size() - 1));
    }

    std::string_view text_;
    std::size_t at_ = 0;
    int depth_ = 0;
    Expression out_;
};

}  // namespace

std::string operand_name(std::size_t n) { return fmt::format("x{}", n); }

Expression read_expression(std::string_view text) { return Reader(text).read(); }

}  // namespace firnfield
