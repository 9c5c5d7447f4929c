#pragma once
// Part of film_module.cpp, which knows libav.
#include <array>
#include <fstream>

#include "core/field/geometry.h"

namespace bathylux::files {

namespace {

/// Animated PNG of 16 bits (PNG, third edition): every frame is the box of what changed, put in its place as
/// it is. (libav's own encoder blends what changed over what was, which its decoder cannot undo at 16 bits.)
class ApngFilm : public FilmWriter {
  public:
    ApngFilm(const std::string& path, const FilmSpec& spec) : spec_(spec), file_(path, std::ios::binary) {
        if (!file_) throw Error("it cannot be opened.");
        file_.write("\x89PNG\r\n\x1a\n", 8);
        Bits head;
        head.u32(spec.width).u32(spec.height).u8(16).u8(6).u8(0).u8(0).u8(0);
        chunk("IHDR", head);
        counted_at_ = file_.tellp();
        count();
    }

    void write(const std::uint16_t* rgba) override {
        const Region r = changed(rgba);
        std::int64_t unit = spec_.rate.seconds, units = spec_.rate.frames; // a delay is unit / units seconds
        while (unit > 0xffff || units > 0xffff) unit = (unit + 1) / 2, units = (units + 1) / 2;
        Bits control;
        control.u32(sequence_++).u32(r.width()).u32(r.height()).u32(r.x0).u32(r.y0);
        control.u16(unit).u16(units).u8(0).u8(0); // stays; replaces what was
        chunk("fcTL", control);
        for (const auto& [data, size] : packed(rgba, r)) {
            Bits body;
            if (frames_ > 0) body.u32(sequence_++);
            body.bytes.append(reinterpret_cast<const char*>(data), size);
            chunk(frames_ > 0 ? "fdAT" : "IDAT", body);
        }
        av_packet_unref(packet_.get());
        last_.assign(rgba, rgba + std::size_t{4} * static_cast<std::size_t>(spec_.width) *
                                      static_cast<std::size_t>(spec_.height));
        ++frames_;
    }
    void finish() override {
        chunk("IEND", {});
        file_.seekp(counted_at_);
        count();
        file_.close();
        if (!file_) throw Error("the disk is full, or cannot be written to.");
    }

  private:
    /// Whole numbers, the highest byte first.
    struct Bits {
        std::string bytes;
        Bits& u8(std::int64_t v) { return bytes.push_back(static_cast<char>(v)), *this; }
        Bits& u16(std::int64_t v) { return u8(v >> 8).u8(v); }
        Bits& u32(std::int64_t v) { return u16(v >> 16).u16(v); }
    };
    void chunk(const char* name, const Bits& body) {
        const std::string named = name + body.bytes;
        const std::uint32_t crc = ~av_crc(av_crc_get_table(AV_CRC_32_IEEE_LE), ~0u,
                                          reinterpret_cast<const std::uint8_t*>(named.data()), named.size());
        const std::string length = Bits().u32(static_cast<std::int64_t>(body.bytes.size())).bytes,
                          check = Bits().u32(crc).bytes;
        file_ << length << named << check;
        if (!file_) throw Error("the disk is full, or cannot be written to.");
    }
    void count() {
        Bits body;
        body.u32(frames_).u32(spec_.loop ? 0 : 1);
        chunk("acTL", body);
    }

    /// The box of all px that are not as they were; one px where all are.
    Region changed(const std::uint16_t* rgba) const {
        const Region all{0, 0, spec_.width, spec_.height};
        if (last_.empty()) return all;
        Region out{spec_.width, spec_.height, 0, 0};
        const auto row = std::size_t{4} * static_cast<std::size_t>(spec_.width);
        for (int y = 0; y < spec_.height; ++y) {
            const std::uint16_t *now = rgba + static_cast<std::size_t>(y) * row,
                                *was = last_.data() + static_cast<std::size_t>(y) * row;
            const auto first = std::mismatch(now, now + row, was).first - now;
            if (first == static_cast<std::ptrdiff_t>(row)) continue;
            auto end = static_cast<std::ptrdiff_t>(row);
            while (now[end - 1] == was[end - 1]) --end;
            out.y0 = std::min(out.y0, y), out.y1 = y + 1;
            out.x0 = std::min(out.x0, static_cast<int>(first / 4));
            out.x1 = std::max(out.x1, static_cast<int>((end + 3) / 4));
        }
        return out.y0 < out.y1 ? out : Region{0, 0, 1, 1};
    }

    /// The packed samples of a part, as the PNG encoder cuts them.
    std::vector<std::pair<const std::uint8_t*, std::size_t>> packed(const std::uint16_t* rgba, Region r) {
        codec_.reset(avcodec_alloc_context3(avcodec_find_encoder_by_name("png")));
        if (!codec_) throw Error("films of that kind cannot be written on this machine.");
        codec_->width = r.width(), codec_->height = r.height();
        codec_->pix_fmt = AV_PIX_FMT_RGBA64BE, codec_->time_base = {1, 1};
        codec_->thread_count = 1;
        av_opt_set(codec_->priv_data, "pred", "paeth", 0);
        sure(avcodec_open2(codec_.get(), codec_->codec, nullptr));
        const FramePtr frame(av_frame_alloc());
        frame->format = codec_->pix_fmt, frame->width = r.width(), frame->height = r.height();
        sure(av_frame_get_buffer(frame.get(), 0));
        for (int y = 0; y < r.height(); ++y) {
            const std::uint16_t* from = rgba + std::size_t{4} * (static_cast<std::size_t>(y + r.y0) *
                                                                     static_cast<std::size_t>(spec_.width) +
                                                                 static_cast<std::size_t>(r.x0));
            std::uint8_t* to = frame->data[0] + static_cast<std::ptrdiff_t>(y) * frame->linesize[0];
            for (int i = 0; i < 4 * r.width(); ++i)
                *to++ = static_cast<std::uint8_t>(from[i] >> 8), *to++ = static_cast<std::uint8_t>(from[i]);
        }
        sure(avcodec_send_frame(codec_.get(), frame.get()));
        sure(avcodec_receive_packet(codec_.get(), packet_.get()));
        std::vector<std::pair<const std::uint8_t*, std::size_t>> out;
        const std::uint8_t *at = packet_->data + 8, *end = packet_->data + packet_->size;
        while (at + 12 <= end) {
            const std::size_t size =
                std::size_t{at[0]} << 24 | std::size_t{at[1]} << 16 | std::size_t{at[2]} << 8 | at[3];
            if (std::memcmp(at + 4, "IDAT", 4) == 0) out.emplace_back(at + 8, size);
            at += 12 + size;
        }
        return out;
    }

    FilmSpec spec_;
    std::ofstream file_;
    std::streampos counted_at_;
    CodecContext codec_;
    Packet packet_{av_packet_alloc()};
    std::vector<std::uint16_t> last_;
    int frames_ = 0, sequence_ = 0;
};

} // namespace

} // namespace bathylux::files
