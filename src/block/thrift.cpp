#include "block/thrift.hpp"

namespace yl {

void make_thrifty(const SourceBlocks&, const BlockRows&, const FormatInfo&, const BlockOptions&,
                  std::byte*) {}

}  // namespace yl
