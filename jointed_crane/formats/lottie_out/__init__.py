"""A scene as vector animation JSON (Lottie, the community's specification 1.0, lottie.github.io/lottie-spec)."""
