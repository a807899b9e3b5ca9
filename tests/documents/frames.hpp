// A loop's condition in the examples of documents: true for some frames, then false.
#pragma once

namespace documents {

class Frames {
 public:
    explicit Frames(int count) : left_(count) {}
    operator bool() const { return left_-- > 0; }  // NOLINT: stands for a bool

 private:
    mutable int left_;
};

}  // namespace documents
