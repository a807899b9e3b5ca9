// The whole public interface of YellowLattice::core.
#pragma once

#include <yl/analysis.hpp>
#include <yl/bake.hpp>
#include <yl/buffer.hpp>
#include <yl/codec.hpp>
#include <yl/container.hpp>
#include <yl/convert.hpp>
#include <yl/finding.hpp>
#include <yl/format.hpp>
#include <yl/image.hpp>
#include <yl/limits.hpp>
#include <yl/measure.hpp>
#include <yl/mip.hpp>
#include <yl/numeric.hpp>
#include <yl/panels.hpp>
#include <yl/result.hpp>
#include <yl/role.hpp>
#include <yl/sampler.hpp>
#include <yl/sampler_rules.hpp>
#include <yl/scene.hpp>
#include <yl/swizzle.hpp>
#include <yl/texture.hpp>
#include <yl/texture_sampler.hpp>
#include <yl/turn.hpp>
#include <yl/upload.hpp>
#include <yl/version.hpp>
