#include "core/image/pixel_layout.h"

namespace yarngap {

std::string PixelLayout::describe() const {
    std::string text;
    switch (model) {
    case ColourModel::grey:
        text = "grey";
        break;
    case ColourModel::rgb:
        text = "RGB";
        break;
    case ColourModel::yuv:
        if (chromaShiftX == 0 && chromaShiftY == 0)
            text = "4:4:4 YUV";
        else if (chromaShiftX == 1 && chromaShiftY == 0)
            text = "4:2:2 YUV";
        else if (chromaShiftX == 1 && chromaShiftY == 1)
            text = "4:2:0 YUV";
        else if (chromaShiftX == 2 && chromaShiftY == 0)
            text = "4:1:1 YUV";
        else if (chromaShiftX == 2 && chromaShiftY == 2)
            text = "4:1:0 YUV";
        else
            text = "4:4:0 YUV";
        break;
    }
    text += alpha ? " with alpha, " : ", ";
    switch (samples) {
    case SampleKind::integer:
        text += std::to_string(depth) + " bit";
        break;
    case SampleKind::half:
        text += "half float";
        break;
    case SampleKind::real:
        text += "float";
        break;
    }
    return text;
}

} // namespace yarngap
