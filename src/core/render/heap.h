#pragma once

namespace bathylux {

/// Gives back to the system what is free in the heap.
void give_back_memory();

/// While it lives, big blocks go straight back to the system when they are freed, so that the heap's holes do
/// not add up over long work; then what is free in the heap goes back as well. It costs fresh pages for every
/// block: not while somebody is waiting. One at a time in a program.
class NoHoles {
  public:
    NoHoles();
    ~NoHoles();
    NoHoles(const NoHoles&) = delete;
    NoHoles& operator=(const NoHoles&) = delete;
};

} // namespace bathylux
