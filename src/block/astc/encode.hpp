// Encoder of ASTC.
#pragma once

#include <cstddef>

#include "block/astc/encoder_tables.hpp"
#include "block/block_codec.hpp"

namespace yl::astc {

/// The squared error that each candidate of a list leaves in each block before it is refined: those of
/// the first block, then those of the next. For the program that puts candidates in order.
[[nodiscard]] std::vector<float> candidate_errors(const EncoderTables& tables,
                                                  const CandidateList& list,
                                                  const std::byte* texels, std::size_t count);

/// Texels of 8 bits a channel.
void encode_ldr(const EncoderTables& tables, const std::byte* texels, std::size_t count,
                const ColorSettings& settings, std::byte* blocks);
/// Half floats: colours of high dynamic range, and alpha from 0 to 1.
void encode_hdr(const EncoderTables& tables, const std::byte* texels, std::size_t count,
                const ColorSettings& settings, std::byte* blocks);

}  // namespace yl::astc
