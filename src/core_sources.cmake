# The files of YellowLattice::core, for the build of this folder and for that of WebAssembly (web/core).
set(yl_core_sources
  base/algorithm_versions.cpp base/base64.cpp base/buffer.cpp base/byte_source.cpp base/bytes.cpp base/descriptor.cpp base/disk_files.cpp base/error.cpp base/file.cpp base/files.cpp base/finding.cpp base/inflate_stream.cpp base/names.cpp base/new_file.cpp base/progress.cpp base/zlib_stream.cpp
  pixel/alpha.cpp pixel/bleed.cpp pixel/channel_packing.cpp pixel/check.cpp pixel/convert.cpp pixel/crop.cpp pixel/format.cpp pixel/image.cpp pixel/normals.cpp pixel/numeric.cpp pixel/role.cpp
  pixel/dither.cpp pixel/rows.cpp pixel/rows_simd.cpp pixel/swizzle.cpp pixel/texture.cpp pixel/texture_layers.cpp pixel/orientation.cpp pixel/seam.cpp pixel/tone.cpp pixel/channels.cpp pixel/channels_simd.cpp
  codec/animation.cpp codec/code_lengths.cpp codec/codec.cpp codec/color_conversion.cpp codec/exif.cpp codec/gamma.cpp codec/gif/gif.cpp codec/lzw.cpp codec/picture_rows.cpp codec/profile.cpp
  codec/png/animation.cpp codec/png/chunks.cpp codec/png/colors.cpp codec/png/expand.cpp codec/png/filter.cpp codec/png/filter_simd.cpp codec/png/parse.cpp codec/png/read.cpp codec/png/rows.cpp codec/png/write.cpp
  codec/bmp/bmp.cpp codec/exr/b44.cpp codec/exr/chunk.cpp codec/exr/dwa.cpp codec/exr/header.cpp codec/exr/piz.cpp codec/exr/planes.cpp codec/exr/read.cpp codec/exr/unpack.cpp
  codec/exr/write.cpp codec/hdr/hdr.cpp codec/jpeg/assembler.cpp codec/jpeg/color.cpp codec/jpeg/frame.cpp codec/jpeg/jpeg_simd.cpp codec/jpeg/huffman.cpp
  codec/jpeg/forward_dct.cpp codec/jpeg/inverse_dct.cpp codec/jpeg/read.cpp codec/jpeg/scan.cpp codec/jpeg/scan_writer.cpp codec/jpeg/write.cpp codec/pnm/header.cpp codec/pnm/pfm.cpp codec/pnm/pnm.cpp codec/psd/header.cpp codec/psd/psd.cpp codec/qoi/qoi.cpp
  codec/tga/tga.cpp codec/tiff/directory.cpp codec/tiff/page.cpp codec/tiff/page_reader.cpp codec/tiff/read.cpp codec/tiff/rows.cpp codec/tiff/samples.cpp codec/tiff/unpack.cpp codec/tiff/write.cpp
  codec/webp/alpha.cpp codec/webp/chunks.cpp codec/webp/entropy_writer.cpp codec/webp/forward_transforms.cpp codec/webp/groups.cpp codec/webp/histogram.cpp codec/webp/loop_filter.cpp codec/webp/loop_filter_simd.cpp codec/webp/macroblock_simd.cpp codec/webp/yuv_rows_simd.cpp codec/webp/lossless.cpp codec/webp/lossy.cpp codec/webp/lossy_tables.cpp
  codec/webp/macroblock.cpp codec/webp/prefix_code.cpp codec/webp/read.cpp codec/webp/tokens.cpp codec/webp/transforms.cpp codec/webp/write.cpp codec/webp/yuv_rows.cpp
  resample/coverage.cpp resample/halved_rows.cpp resample/kernel.cpp resample/level_chain.cpp resample/level_flow.cpp resample/level_stages.cpp resample/mip.cpp resample/quarter_simd.cpp resample/quartered_rows.cpp resample/resize.cpp resample/roughness.cpp resample/row_source.cpp
  resample/rows_simd.cpp resample/sharpen.cpp resample/volume_chain.cpp resample/weights.cpp resample/working_format.cpp
  measure/compare.cpp measure/content.cpp measure/difference.cpp
  cube/convention.cpp cube/cube.cpp cube/diffuse.cpp cube/edge_strips.cpp cube/face_names.cpp cube/guess.cpp cube/layout.cpp cube/light_chain.cpp cube/light_cube.cpp
  cube/mips.cpp cube/order.cpp cube/panorama_simd.cpp cube/resample.cpp cube/seams.cpp cube/smaller.cpp cube/specular.cpp cube/split_sum.cpp cube/sun.cpp
  block/astc/block_codecs.cpp block/astc/block_head.cpp block/astc/block_mode.cpp block/astc/block_texels.cpp block/astc/decode_hdr.cpp block/astc/decode_simd.cpp block/astc/block_encode_simd.cpp block/astc/encoder_tables.cpp block/astc/endpoints.cpp block/astc/footprint_tables.cpp block/astc/integer_sequence.cpp block/astc/quantization.cpp block/astc/settled_block.cpp
  block/bc/block_codecs.cpp block/etc/block_codecs.cpp block/etc/color_decode.cpp block/etc/color_encode_simd.cpp block/etc/color_pack.cpp block/etc/eac_decode.cpp block/etc/eac_encode_simd.cpp
  block/decode.cpp block/encode.cpp block/source_blocks.cpp block/rate_distortion.cpp block/bc/bc1_encode_simd.cpp block/bc/bc4_encode_simd.cpp block/bc/bc7_encode_simd.cpp block/bc/bc7_pack.cpp block/bc/bc6h_encode_simd.cpp block/bc/bc6h_pack.cpp
  block/bc/decode_simd.cpp block/bc/bc1_decode.cpp block/bc/bc4_decode.cpp block/bc/bc6h_decode.cpp block/bc/bc7_decode.cpp
  container/container.cpp container/stream.cpp container/dds/formats.cpp container/dds/read.cpp container/dds/write.cpp container/ktx1/read.cpp
  container/ktx2/descriptor.cpp container/ktx2/read.cpp container/ktx2/supercompression.cpp container/ktx2/write.cpp
  bake/atlas/atlas.cpp bake/atlas/cells.cpp bake/atlas/flipbooks.cpp bake/atlas/free_space.cpp bake/atlas/pack.cpp bake/atlas/skyline.cpp bake/atlas/table.cpp
  bake/bake.cpp bake/bake_array.cpp bake/bake_rows.cpp bake/band_reader.cpp bake/level_writer.cpp bake/subject.cpp bake/bake_cube.cpp bake/block_step.cpp bake/chain.cpp bake/formats.cpp bake/judge.cpp bake/lookup_table.cpp bake/normals_for.cpp bake/rebake.cpp bake/same_alpha.cpp bake/stack.cpp bake/unpack.cpp
  sampling/cube_sampler.cpp sampling/sampler_rules.cpp sampling/sampler_text.cpp sampling/texture_sampler.cpp
  sampling/enumerant_names.cpp sampling/sampler_enumerants.cpp
  upload/device_profile.cpp upload/device_rules.cpp upload/device_texture.cpp upload/memory_blocks.cpp upload/plan.cpp upload/recording_device.cpp upload/regions.cpp upload/stand_in_memory.cpp upload/staging.cpp upload/texture_device.cpp upload/transcode.cpp upload/upload_stand_ins.cpp
  upload/placeholder.cpp upload/keeper/keeper.cpp upload/keeper/memory.cpp upload/keeper/load_queue.cpp upload/keeper/placeholders.cpp upload/keeper/reduce.cpp
  lint/alpha.cpp lint/cubes.cpp lint/cutout.cpp lint/directions.cpp lint/edges.cpp lint/encoding.cpp lint/finding_table.cpp lint/grain.cpp lint/levels.cpp lint/lint.cpp
  lint/packed.cpp lint/siblings.cpp lint/skies.cpp lint/storage.cpp lint/subject.cpp
  report/canvas.cpp render/cube_scene.cpp render/draw_lit_scene.cpp render/draw_scene.cpp report/draw_difference.cpp report/lettering.cpp render/model/colors.cpp render/model/draw_model.cpp
  render/model/projection.cpp render/model/shade.cpp report/panels.cpp render/scene.cpp report/sheet.cpp report/surface_picture.cpp
)
