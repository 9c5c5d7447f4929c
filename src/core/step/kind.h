#pragma once
#include <memory>
#include <stdexcept>
#include <string>

#include "core/step/parameter.h"

namespace bathylux {

/// What a described thing is (a bevel, a rectangle, a point light): its name, its parameters, and how to
/// make and copy a plain struct of them.
struct Kind {
    std::string_view id, name, help;
    std::span<const Parameter> parameters;
    void* (*make)(const void* like) = nullptr; // a copy of `like`; null: as it is to begin with
    void (*drop)(void*) = nullptr;
    const void* tag = nullptr;
    bool by_hand = false; // strokes of the brush, kept in a file; its parameters are the brush's business
    bool drifts = false;  // and what they keep is how far things were pushed
    /// What it is in a few words and figures ("round, 24 px in, up 8 px"); null where its name says it all.
    std::string (*says)(const void*) = nullptr;

    std::shared_ptr<void> made(const void* like = nullptr) const { return {make(like), drop}; }
    const Parameter* find(std::string_view parameter) const {
        for (const Parameter& p : parameters)
            if (p.id == parameter) return &p;
        return nullptr;
    }
};

namespace detail {
template <class T> inline constexpr char tag_of = 0;
}

/// The kind of a plain struct that carries `id`, `name`, `help` and `parameters` as static members.
template <class T> constexpr Kind describe() {
    Kind k{T::id,
           T::name,
           T::help,
           T::parameters,
           [](const void* like) -> void* { return like ? new T(*static_cast<const T*>(like)) : new T(); },
           [](void* made) { delete static_cast<T*>(made); },
           &detail::tag_of<T>};
    if constexpr (requires { T::by_hand; }) k.by_hand = T::by_hand;
    if constexpr (requires { T::drifts; }) k.drifts = T::drifts;
    if constexpr (requires(const T& t) { t.says(); })
        k.says = [](const void* s) { return static_cast<const T*>(s)->says(); };
    return k;
}

/// An immutable struct of parameters together with its kind and the hash of its content, made once. Copying
/// shares; changing makes a new one.
class Described {
  public:
    Described() = default;
    explicit Described(const Kind& kind) : Described(kind, kind.made()) {}
    template <class T>
    requires requires { T::parameters; }
    Described(const Kind& kind, T value)
        : Described(kind, std::shared_ptr<void>(new T(std::move(value)), kind.drop)) {}

    const Kind& kind() const { return *kind_; }
    const void* data() const { return data_.get(); }
    bool is(std::string_view id) const { return kind_ && kind_->id == id; }
    /// The struct itself where it is a T, otherwise null.
    template <class T> const T* as() const {
        return kind_ && kind_->tag == &detail::tag_of<T> ? static_cast<const T*>(data_.get()) : nullptr;
    }
    Value get(const Parameter& p) const { return p.get(data_.get()); }
    Value get(std::string_view id) const {
        const Parameter* p = kind_->find(id);
        if (!p) throw std::out_of_range(std::string(id));
        return get(*p);
    }
    Described with(const Parameter& p, const Value& v) const {
        auto changed = kind_->made(data_.get());
        p.set(changed.get(), v);
        return {*kind_, std::move(changed)};
    }
    Described with(std::string_view id, const Value& v) const {
        const Parameter* p = kind_->find(id);
        if (!p) throw std::out_of_range(std::string(id));
        return with(*p, v);
    }

    std::uint64_t hash() const { return hash_; }
    std::string says() const { return kind_->says ? kind_->says(data_.get()) : std::string(); }
    bool counts(const Parameter& p) const { return bathylux::counts(kind_->parameters, data_.get(), p); }

  private:
    Described(const Kind& kind, std::shared_ptr<const void> data);

    const Kind* kind_ = nullptr;
    std::shared_ptr<const void> data_;
    std::uint64_t hash_ = 0;
};

/// The map that a parameter of that type holds, where it lies: good as long as `what`.
inline const std::optional<MapRef>& map_in(const Described& what, const Parameter& parameter) {
    return parameter.map_in_place(what.data());
}

} // namespace bathylux
