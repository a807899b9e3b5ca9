// Pictures that become one texture: one role, one format and one way to read alpha for all.
#pragma once

#include <functional>
#include <string>

#include <yl/bake.hpp>
#include "bake/same_alpha.hpp"

namespace yl {

class Stack {
 public:
    /// What a picture is called in errors and findings, by its number from 0.
    using NameOf = std::function<std::string(std::size_t)>;

    Stack(std::span<const Picture* const> pictures, const BakeOptions& options, NameOf name)
        : pictures_(pictures), options_(options), name_(std::move(name)) {}

    /// Checks the pictures and settles what they have in common.
    [[nodiscard]] Status settle();

    [[nodiscard]] std::size_t size() const { return pictures_.size(); }
    [[nodiscard]] const Picture& picture(std::size_t index) const { return *pictures_[index]; }
    [[nodiscard]] std::string name(std::size_t index) const { return name_(index); }
    [[nodiscard]] Role role() const { return role_; }
    [[nodiscard]] Format format() const { return format_; }

    /// The options of every picture.
    [[nodiscard]] BakeOptions each() const;

    /// The picture, or what has been made of it to fit, baked by itself.
    [[nodiscard]] Result<Baked> baked(std::size_t index, const Picture& picture,
                                      const BakeOptions& options) const;

    /// Adds what is known of one more picture; an error where its channels differ in meaning.
    [[nodiscard]] Status join(Baked& all, Baked& one, std::size_t index) const;

 private:
    [[nodiscard]] Format richest_format() const;
    [[nodiscard]] Status join_alpha(Baked& all, const Baked& one, std::size_t index) const;

    std::span<const Picture* const> pictures_;
    const BakeOptions& options_;
    NameOf name_;
    SameAlpha same_alpha_ = {};
    Role role_ = Role::color;
    Format format_ = Format::undefined;
};

}  // namespace yl
