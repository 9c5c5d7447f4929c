// The only file that knows libav and libwebpdemux. Built as a module of its own: see films.h.
extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/crc.h>
#include <libavutil/imgutils.h>
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
#include <libswscale/swscale.h>
}
#include <webp/demux.h>

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/error.h"
#include "files/films.h"

namespace bathylux::files {

namespace {

template <auto release> struct Free {
    template <class T> void operator()(T* p) const { release(&p); }
};
using Packet = std::unique_ptr<AVPacket, Free<av_packet_free>>;
using FramePtr = std::unique_ptr<AVFrame, Free<av_frame_free>>;
using CodecContext = std::unique_ptr<AVCodecContext, Free<avcodec_free_context>>;
struct FreeSws {
    void operator()(SwsContext* p) const { sws_freeContext(p); }
};
using Scaler = std::unique_ptr<SwsContext, FreeSws>;

std::string reason(int code) {
    char text[AV_ERROR_MAX_STRING_SIZE] = {};
    av_strerror(code, text, sizeof text);
    std::string out = text;
    if (!out.empty() && out.back() != '.') out += '.';
    return out;
}
int sure(int code) {
    if (code < 0) throw Error(reason(code));
    return code;
}

/// Bytes in memory as libav reads a file.
struct Memory {
    std::shared_ptr<const Bytes> bytes;
    std::int64_t at = 0;

    static int read(void* self, std::uint8_t* to, int size) {
        auto& m = *static_cast<Memory*>(self);
        const std::int64_t left = static_cast<std::int64_t>(m.bytes->size()) - m.at;
        if (left <= 0) return AVERROR_EOF;
        const auto n = static_cast<int>(std::min<std::int64_t>(size, left));
        std::memcpy(to, m.bytes->data() + m.at, static_cast<std::size_t>(n));
        m.at += n;
        return n;
    }
    static std::int64_t seek(void* self, std::int64_t offset, int whence) {
        auto& m = *static_cast<Memory*>(self);
        const auto size = static_cast<std::int64_t>(m.bytes->size());
        if (whence == AVSEEK_SIZE) return size;
        const std::int64_t from = whence == SEEK_SET ? 0 : whence == SEEK_CUR ? m.at : size;
        if (offset < -from || offset > size - from) return AVERROR(EINVAL);
        return m.at = from + offset;
    }
};

/// What a clip is read from; closed with it, also where it cannot be opened whole.
struct Input {
    AVFormatContext* format = nullptr;
    AVIOContext* io = nullptr;
    Input() = default;
    Input(const Input&) = delete;
    Input& operator=(const Input&) = delete;
    ~Input() { close(); }
    void close() {
        if (format) avformat_close_input(&format);
        if (io) {
            av_freep(&io->buffer);
            avio_context_free(&io);
        }
    }
};

/// What a film is written to.
struct Output {
    AVFormatContext* format = nullptr;
    Output() = default;
    Output(const Output&) = delete;
    Output& operator=(const Output&) = delete;
    ~Output() {
        if (!format) return;
        if (format->pb) avio_closep(&format->pb);
        avformat_free_context(format);
    }
};

/// Whatever libav reads. The packets are looked through once for when every frame begins; a frame is found by
/// going to the key frame before it and decoding on.
class AvClip : public Clip {
  public:
    AvClip(std::string path, std::shared_ptr<const Bytes> bytes) : path_(std::move(path)) {
        memory_.bytes = std::move(bytes);
        open();
        width = stream().codecpar->width, height = stream().codecpar->height;
        look_through();
        open();
    }

    Picture frame(int index) override {
        const std::int64_t wanted = times_.at(static_cast<std::size_t>(index));
        if (kept_ == index) return made_;
        // Decoding on is quicker than going back to a key frame; else go there, or to the very beginning
        // where that fails.
        bool found = index > reached_ && index - reached_ <= 12 && decode_to(wanted);
        if (!found && go_to(wanted)) found = decode_to(wanted);
        if (!found) {
            open();
            found = decode_to(wanted);
        }
        if (!found) throw Error("its frame " + std::to_string(index) + " cannot be decoded.");
        made_ = as_picture(*frame_);
        kept_ = index;
        return made_;
    }

  private:
    AVStream& stream() const { return *in_.format->streams[stream_]; }

    void open() {
        codec_.reset();
        in_.close();
        reached_ = -1;
        done_ = false;
        in_.format = avformat_alloc_context();
        if (!in_.format) throw Error("there is no memory for it.");
        if (memory_.bytes) {
            memory_.at = 0;
            auto* buffer = static_cast<unsigned char*>(av_malloc(1 << 16));
            in_.io = avio_alloc_context(buffer, 1 << 16, 0, &memory_, Memory::read, nullptr, Memory::seek);
            in_.format->pb = in_.io;
        }
        // No network, and no file that names others.
        AVDictionary* options = nullptr;
        av_dict_set(&options, "protocol_whitelist", "file", 0);
        av_dict_set(&options, "format_whitelist", "matroska,webm,mov,mp4,m4a,3gp,3g2,mj2,apng,gif,avi", 0);
        const int opened =
            avformat_open_input(&in_.format, path_.empty() ? nullptr : path_.c_str(), nullptr, &options);
        av_dict_free(&options);
        sure(opened);
        sure(avformat_find_stream_info(in_.format, nullptr));
        const AVCodec* decoder = nullptr;
        stream_ = sure(av_find_best_stream(in_.format, AVMEDIA_TYPE_VIDEO, -1, -1, &decoder, 0));
        for (unsigned i = 0; i < in_.format->nb_streams; ++i)
            if (static_cast<int>(i) != stream_) in_.format->streams[i]->discard = AVDISCARD_ALL;
        // VP8 and VP9 keep alpha beside the picture, which only their own library reads.
        const AVDictionaryEntry* alpha = av_dict_get(stream().metadata, "alpha_mode", nullptr, 0);
        if (alpha && std::string_view(alpha->value) == "1") {
            const char* own = stream().codecpar->codec_id == AV_CODEC_ID_VP9   ? "libvpx-vp9"
                              : stream().codecpar->codec_id == AV_CODEC_ID_VP8 ? "libvpx"
                                                                               : nullptr;
            if (const AVCodec* better = own ? avcodec_find_decoder_by_name(own) : nullptr) decoder = better;
        }
        if (!decoder) throw Error("what it is coded with is not known here.");
        codec_.reset(avcodec_alloc_context3(decoder));
        sure(avcodec_parameters_to_context(codec_.get(), stream().codecpar));
        codec_->thread_count = 2;
        codec_->pkt_timebase = stream().time_base;
        if (codec_->width > most_picture_side || codec_->height > most_picture_side)
            throw Error("its pictures are larger than " + std::to_string(most_picture_side) + " px a side.");
        sure(avcodec_open2(codec_.get(), decoder, nullptr));
    }

    static std::int64_t time_of(const AVPacket& p) { return p.pts != AV_NOPTS_VALUE ? p.pts : p.dts; }

    void look_through() {
        Packet packet(av_packet_alloc());
        std::int64_t last_duration = 0, latest = AV_NOPTS_VALUE;
        while (av_read_frame(in_.format, packet.get()) >= 0) {
            if (packet->stream_index == stream_ && !(packet->flags & AV_PKT_FLAG_DISCARD)) {
                const std::int64_t t = time_of(*packet);
                if (t != AV_NOPTS_VALUE) {
                    times_.push_back(t);
                    if (latest == AV_NOPTS_VALUE || t >= latest) latest = t, last_duration = packet->duration;
                }
            }
            av_packet_unref(packet.get());
            if (times_.size() > static_cast<std::size_t>(most_clip_frames))
                throw Error("it has more than " + std::to_string(most_clip_frames) + " frames.");
        }
        std::sort(times_.begin(), times_.end());
        times_.erase(std::unique(times_.begin(), times_.end()), times_.end());
        if (times_.empty()) throw Error("it holds no picture that could be decoded.");
        const double unit = av_q2d(stream().time_base);
        for (const std::int64_t t : times_) begins.push_back(static_cast<double>(t - times_.front()) * unit);
        tick = unit;
        const AVRational rate = stream().avg_frame_rate;
        const double each = last_duration > 0   ? static_cast<double>(last_duration) * unit
                            : begins.size() > 1 ? begins.back() / static_cast<double>(begins.size() - 1)
                            : rate.num > 0 && rate.den > 0 ? av_q2d(av_inv_q(rate))
                                                           : 0.04;
        length = begins.back() + std::max(each, 1e-6);
        set_exact(rate);
    }

    /// Frames that come evenly, but for the container's rounding, begin exactly when their rate says. (APNG
    /// states durations as fractions, which its reader rounds one by one.)
    void set_exact(const AVRational& mean) {
        const bool adds_up = std::string_view(in_.format->iformat->name) == "apng";
        for (const AVRational& rate : {mean, stream().r_frame_rate}) {
            if (rate.num <= 0 || rate.den <= 0) continue;
            const double each = static_cast<double>(rate.den) / rate.num;
            bool even = true;
            for (std::size_t i = 0; i < begins.size() && even; ++i) {
                const double allowed = tick * (1 + (adds_up ? 0.51 * static_cast<double>(i) : 0));
                even = std::abs(begins[i] - static_cast<double>(i) * each) <= allowed;
            }
            if (!even) continue;
            for (std::size_t i = 0; i < begins.size(); ++i) begins[i] = static_cast<double>(i) * each;
            length = static_cast<double>(begins.size()) * each;
            tick = 0;
            return;
        }
    }

    bool go_to(std::int64_t time) {
        if (av_seek_frame(in_.format, stream_, time, AVSEEK_FLAG_BACKWARD) < 0) return false;
        avcodec_flush_buffers(codec_.get());
        done_ = false;
        reached_ = -1;
        return true;
    }

    /// Decodes on until that frame; false where it is behind, or never comes.
    bool decode_to(std::int64_t wanted) {
        Packet packet(av_packet_alloc());
        for (;;) {
            const int got = avcodec_receive_frame(codec_.get(), frame_.get());
            if (got == 0) {
                const std::int64_t t = frame_->best_effort_timestamp;
                const auto at = std::lower_bound(times_.begin(), times_.end(), t);
                if (at != times_.end() && *at == t) reached_ = static_cast<int>(at - times_.begin());
                if (t == wanted) return true;
                if (t != AV_NOPTS_VALUE && t > wanted) return false;
                continue;
            }
            if (got == AVERROR_EOF) return false;
            if (got != AVERROR(EAGAIN)) sure(got);
            if (done_) return false;
            int read = 0;
            do {
                av_packet_unref(packet.get());
                read = av_read_frame(in_.format, packet.get());
            } while (read >= 0 && packet->stream_index != stream_);
            if (read < 0) {
                done_ = true;
                avcodec_send_packet(codec_.get(), nullptr);
                continue;
            }
            // A damaged packet loses its frame, not the clip.
            avcodec_send_packet(codec_.get(), packet.get());
            av_packet_unref(packet.get());
        }
    }

    Picture as_picture(const AVFrame& f) {
        const auto format = static_cast<AVPixelFormat>(f.format);
        const AVPixFmtDescriptor* d = av_pix_fmt_desc_get(format);
        if (!d || f.width < 1 || f.height < 1 || f.width > most_picture_side || f.height > most_picture_side)
            throw Error("its pictures cannot be read.");
        const bool deep = d->comp[0].depth > 8;
        has_alpha = has_alpha || (d->flags & AV_PIX_FMT_FLAG_ALPHA) || format == AV_PIX_FMT_PAL8;
        // Frames keep the size of the first.
        Picture out;
        out.width = width, out.height = height, out.channels = 4;
        out.format = deep ? Picture::Format::u16 : Picture::Format::u8;
        const int row = width * 4 * (deep ? 2 : 1);
        out.samples.resize(static_cast<std::size_t>(row) * static_cast<std::size_t>(height));
        Scaler scaler(sws_getContext(
            f.width, f.height, format, width, height, deep ? AV_PIX_FMT_RGBA64LE : AV_PIX_FMT_RGBA,
            SWS_BICUBIC | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT | SWS_BITEXACT, nullptr, nullptr, nullptr));
        if (!scaler) throw Error("its pictures cannot be read.");
        if (!(d->flags & AV_PIX_FMT_FLAG_RGB)) {
            // What says nothing of its matrix is as large as a broadcast's, or small.
            const int space = f.colorspace != AVCOL_SPC_UNSPECIFIED ? static_cast<int>(f.colorspace)
                              : f.height >= 720                     ? static_cast<int>(AVCOL_SPC_BT709)
                                                                    : static_cast<int>(AVCOL_SPC_SMPTE170M);
            sws_setColorspaceDetails(scaler.get(), sws_getCoefficients(space),
                                     f.color_range == AVCOL_RANGE_JPEG, sws_getCoefficients(SWS_CS_DEFAULT),
                                     1, 0, 1 << 16, 1 << 16);
        }
        auto* to = reinterpret_cast<std::uint8_t*>(out.samples.data());
        std::uint8_t* planes[4] = {to, nullptr, nullptr, nullptr};
        const int strides[4] = {row, 0, 0, 0};
        if (sws_scale(scaler.get(), f.data, f.linesize, 0, f.height, planes, strides) != height)
            throw Error("its pictures cannot be read.");
        out.seal();
        return out;
    }

    std::string path_;
    Memory memory_;
    Input in_;
    CodecContext codec_;
    FramePtr frame_{av_frame_alloc()};
    int stream_ = 0, reached_ = -1, kept_ = -1;
    bool done_ = false;
    Picture made_;
    std::vector<std::int64_t> times_;
};

/// Animated WebP, which libav does not decode.
class WebpClip : public Clip {
  public:
    explicit WebpClip(std::shared_ptr<const Bytes> bytes) : bytes_(std::move(bytes)) {
        start();
        WebPAnimInfo info;
        if (!WebPAnimDecoderGetInfo(decoder_.get(), &info)) throw Error("its head is damaged.");
        width = static_cast<int>(info.canvas_width), height = static_cast<int>(info.canvas_height);
        has_alpha = true;
        tick = 0.001;
        std::uint8_t* pixels = nullptr;
        int ends = 0, began = 0;
        while (WebPAnimDecoderHasMoreFrames(decoder_.get())) {
            if (!WebPAnimDecoderGetNext(decoder_.get(), &pixels, &ends)) break; // cut: what is there counts
            begins.push_back(began / 1000.0);
            began = std::max(ends, began + 1);
        }
        length = began / 1000.0;
        start();
    }
    Picture frame(int index) override {
        if (index < next_ - 1 || next_ == 0) start();
        while (next_ <= index) {
            int ends = 0;
            if (!WebPAnimDecoderGetNext(decoder_.get(), &pixels_, &ends))
                throw Error("its frame " + std::to_string(index) + " cannot be decoded.");
            ++next_;
        }
        Picture out;
        out.width = width, out.height = height, out.channels = 4;
        out.samples.resize(std::size_t{4} * static_cast<std::size_t>(width) *
                           static_cast<std::size_t>(height));
        std::memcpy(out.samples.data(), pixels_, out.samples.size());
        out.seal();
        return out;
    }

  private:
    struct FreeDecoder {
        void operator()(WebPAnimDecoder* d) const { WebPAnimDecoderDelete(d); }
    };
    void start() {
        WebPAnimDecoderOptions options;
        WebPAnimDecoderOptionsInit(&options);
        options.color_mode = MODE_RGBA;
        const WebPData data{reinterpret_cast<const std::uint8_t*>(bytes_->data()), bytes_->size()};
        decoder_.reset(WebPAnimDecoderNew(&data, &options));
        if (!decoder_) throw Error("it is damaged.");
        next_ = 0;
    }
    std::shared_ptr<const Bytes> bytes_;
    std::unique_ptr<WebPAnimDecoder, FreeDecoder> decoder_;
    std::uint8_t* pixels_ = nullptr;
    int next_ = 0;
};

class AvFilm : public FilmWriter {
  public:
    AvFilm(const std::string& path, const std::string& ending, const FilmSpec& spec) : spec_(spec) {
        const bool webm = ending == ".webm", mov = ending == ".mov";
        sure(avformat_alloc_output_context2(&out_.format, nullptr,
                                            webm  ? "webm"
                                            : mov ? "mov"
                                                  : "webp",
                                            path.c_str()));
        const AVCodec* encoder = avcodec_find_encoder_by_name(webm  ? "libvpx-vp9"
                                                              : mov ? "prores_ks"
                                                                    : "libwebp_anim");
        if (!encoder) throw Error("films of that kind cannot be written on this machine.");
        stream_ = avformat_new_stream(out_.format, nullptr);
        codec_.reset(avcodec_alloc_context3(encoder));
        if (!stream_ || !codec_) throw Error("there is no memory for it.");
        const AVRational rate{static_cast<int>(spec.rate.frames), static_cast<int>(spec.rate.seconds)};
        codec_->width = spec.width, codec_->height = spec.height;
        codec_->time_base = av_inv_q(rate), codec_->framerate = rate;
        codec_->pix_fmt = webm ? AV_PIX_FMT_YUVA420P : mov ? AV_PIX_FMT_YUVA444P10LE : AV_PIX_FMT_BGRA;
        if (webm || mov) {
            codec_->colorspace = AVCOL_SPC_BT709, codec_->color_range = AVCOL_RANGE_MPEG;
            codec_->color_primaries = AVCOL_PRI_BT709, codec_->color_trc = AVCOL_TRC_IEC61966_2_1;
        }
        codec_->gop_size = 48;
        codec_->thread_count = webm ? 2 : 0;
        codec_->flags |= AV_CODEC_FLAG_BITEXACT;
        const auto option = [&](const char* name, const char* value) {
            av_opt_set(codec_->priv_data, name, value, 0);
        };
        if (webm) {
            codec_->bit_rate = 0;
            option("crf", "12"), option("deadline", "good"), option("cpu-used", "4"), option("row-mt", "1");
            option("auto-alt-ref", "0"); // with alpha, frames that are never shown lose theirs
        }
        if (mov) option("profile", "4444"), option("alpha_bits", "16"), option("vendor", "apl0");
        if (!webm && !mov) option("lossless", "1"), codec_->compression_level = 4;
        if (out_.format->oformat->flags & AVFMT_GLOBALHEADER) codec_->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
        sure(avcodec_open2(codec_.get(), encoder, nullptr));
        sure(avcodec_parameters_from_context(stream_->codecpar, codec_.get()));
        stream_->time_base = codec_->time_base, stream_->avg_frame_rate = rate;
        if (webm) av_dict_set(&stream_->metadata, "alpha_mode", "1", 0);
        out_.format->flags |= AVFMT_FLAG_BITEXACT;
        sure(avio_open(&out_.format->pb, path.c_str(), AVIO_FLAG_WRITE));
        AVDictionary* options = nullptr;
        if (!webm && !mov) av_dict_set(&options, "loop", spec.loop ? "0" : "1", 0);
        const int begun = avformat_write_header(out_.format, &options);
        av_dict_free(&options);
        sure(begun);
        frame_->format = codec_->pix_fmt, frame_->width = spec.width, frame_->height = spec.height;
        frame_->colorspace = codec_->colorspace, frame_->color_range = codec_->color_range;
        sure(av_frame_get_buffer(frame_.get(), 0));
        scaler_.reset(sws_getContext(spec.width, spec.height, AV_PIX_FMT_RGBA64LE, spec.width, spec.height,
                                     codec_->pix_fmt, SWS_BICUBIC | SWS_ACCURATE_RND | SWS_BITEXACT, nullptr,
                                     nullptr, nullptr));
        if (!scaler_) throw Error("films of that kind cannot be written on this machine.");
        if (webm || mov)
            sws_setColorspaceDetails(scaler_.get(), sws_getCoefficients(SWS_CS_DEFAULT), 1,
                                     sws_getCoefficients(SWS_CS_ITU709), 0, 0, 1 << 16, 1 << 16);
    }

    void write(const std::uint16_t* rgba) override {
        sure(av_frame_make_writable(frame_.get()));
        const auto* from = reinterpret_cast<const std::uint8_t*>(rgba);
        const std::uint8_t* planes[4] = {from, nullptr, nullptr, nullptr};
        const int strides[4] = {8 * spec_.width, 0, 0, 0};
        sws_scale(scaler_.get(), planes, strides, 0, spec_.height, frame_->data, frame_->linesize);
        frame_->pts = next_++;
        send(frame_.get());
    }
    void finish() override {
        send(nullptr);
        sure(av_write_trailer(out_.format));
        sure(avio_closep(&out_.format->pb));
    }

  private:
    void send(const AVFrame* frame) {
        sure(avcodec_send_frame(codec_.get(), frame));
        Packet packet(av_packet_alloc());
        for (;;) {
            const int got = avcodec_receive_packet(codec_.get(), packet.get());
            if (got == AVERROR(EAGAIN) || got == AVERROR_EOF) return;
            sure(got);
            if (packet->duration == 0) packet->duration = 1;
            av_packet_rescale_ts(packet.get(), codec_->time_base, stream_->time_base);
            packet->stream_index = stream_->index;
            sure(av_interleaved_write_frame(out_.format, packet.get()));
        }
    }
    FilmSpec spec_;
    Output out_;
    AVStream* stream_ = nullptr;
    CodecContext codec_;
    FramePtr frame_{av_frame_alloc()};
    Scaler scaler_;
    std::int64_t next_ = 0;
};

} // namespace

} // namespace bathylux::files

#include "files/apng_film.h"

namespace bathylux::files {

namespace {

bool is_webp(const std::byte* head, std::size_t size) {
    return size >= 12 && std::memcmp(head, "RIFF", 4) == 0 && std::memcmp(head + 8, "WEBP", 4) == 0;
}

class Films : public FilmModule {
  public:
    Films() { av_log_set_level(AV_LOG_QUIET); }
    std::unique_ptr<Clip> open(const std::string& path, std::shared_ptr<const Bytes> bytes) override {
        if (bytes && is_webp(bytes->data(), bytes->size()))
            return std::make_unique<WebpClip>(std::move(bytes));
        return std::make_unique<AvClip>(path, std::move(bytes));
    }
    std::unique_ptr<FilmWriter> writer(const std::string& path, const std::string& ending,
                                       const FilmSpec& spec) override {
        if (ending == ".apng") return std::make_unique<ApngFilm>(path, spec);
        return std::make_unique<AvFilm>(path, ending, spec);
    }
};

} // namespace

} // namespace bathylux::files

extern "C" bathylux::files::FilmModule* bathylux_film_module() {
    static bathylux::files::Films module;
    return &module;
}
