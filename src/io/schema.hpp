/// The fields of what results folders hold beside findings.
#pragma once

#include <firnfield/results.hpp>

#include "findings/schema/in_time.hpp"

namespace firnfield {

template <typename V>
void fields(V& v, const Change&) {
    v.text(&Change::address, {.name = "address"});
    v.text(&Change::value, {.name = "value"});
}

template <typename V>
void fields(V& v, const Origins&) {
    v.text(&Origins::file, {.name = "file", .meaning = "as seen from the folder; empty: not from a file"});
    v.text(&Origins::design, {.name = "design", .meaning = "variant or point of a sweep; empty: the file as it stands"});
    v.rows(&Origins::changes, {.name = "changes", .meaning = "further ones"});
}

template <typename V>
void fields(V& v, const Units&) {
    v.text(&Units::length, {.name = "length"});
    v.text(&Units::temperature, {.name = "temperature"});
}

template <typename V>
void fields(V& v, const StudyFailure&) {
    v.text(&StudyFailure::study, {.name = "study"});
    v.text(&StudyFailure::reason, {.name = "reason"});
}

/// The studies follow: they are of two kinds.
template <typename V>
void fields(V& v, const Summary&) {
    v.text(&Summary::version, {.name = "firnfield", .meaning = "version of the program"});
    v.text(&Summary::title, {.name = "title"});
    v.text(&Summary::fingerprint, {.name = "fingerprint", .meaning = "changes whenever the model or a material it uses does"});
    v.row(&Summary::from, {.name = "from", .meaning = "what it was solved from"});
    v.row(&Summary::units,
          {.name = "told_in", .meaning = "units that texts, pages and CSV files are told in; numbers here are in SI units, temperatures in degC"});
    v.value(&Summary::mass, kinds::mass, {.name = "mass", .meaning = "of all parts; null: a density is not known"});
    v.rows(&Summary::failures, {.name = "failed", .meaning = "studies that failed"});
}

template <typename V>
void fields(V& v, const StudyOutcome&) {
    v.text(&StudyOutcome::study, {.name = "study"});
    v.word(&StudyOutcome::verdict, verdict_words, {.name = "verdict"});
    v.row(&StudyOutcome::hottest, {.name = "hottest"});
}

template <typename V>
void fields(V& v, const Outcome::Coordinate&) {
    v.text(&Outcome::Coordinate::address, {.name = "address"});
    v.text(&Outcome::Coordinate::text, {.name = "value"});
    v.number(&Outcome::Coordinate::number, {.name = "number", .meaning = "in the unit of the value"});
}

template <typename V>
void fields(V& v, const Outcome&) {
    v.text(&Outcome::name, {.name = "name"});
    v.text(&Outcome::fingerprint, {.name = "fingerprint"});
    v.value(&Outcome::mass, kinds::mass, {.name = "mass", .meaning = "null: a density is not known"});
    v.text(&Outcome::sweep, {.name = "sweep", .meaning = "that it is a point of; empty: none"});
    v.rows(&Outcome::at, {.name = "at", .meaning = "what was swept"});
    v.rows(&Outcome::studies, {.name = "studies"});
}

/// Values, differences and what is best follow: a list over designs each.
template <typename V>
void fields(V& v, const ComparedFigure&) {
    v.text(&ComparedFigure::study, {.name = "study"});
    v.inside(&ComparedFigure::what, WithoutValue{});
}

}  // namespace firnfield
