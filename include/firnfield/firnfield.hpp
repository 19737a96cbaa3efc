/// Everything: include this, or the header of the concept you need.
#pragma once

#include <firnfield/animation.hpp>
#include <firnfield/chart.hpp>
#include <firnfield/compare.hpp>
#include <firnfield/convection.hpp>
#include <firnfield/curve.hpp>
#include <firnfield/error.hpp>
#include <firnfield/error_bars.hpp>
#include <firnfield/explain.hpp>
#include <firnfield/findings.hpp>
#include <firnfield/geometry.hpp>
#include <firnfield/history.hpp>
#include <firnfield/material.hpp>
#include <firnfield/mesh.hpp>
#include <firnfield/model.hpp>
#include <firnfield/model_file.hpp>
#include <firnfield/network.hpp>
#include <firnfield/picture.hpp>
#include <firnfield/profile.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>
#include <firnfield/steady.hpp>
#include <firnfield/stl.hpp>
#include <firnfield/text.hpp>
#include <firnfield/transient.hpp>
#include <firnfield/version.hpp>
