//! Pictures of backdrops: PNG, JPEG and WebP files in the book's folder.

use std::io::Cursor;
use std::path::{Component, Path};

use caltrin_core::program::Backdrop;
use caltrin_draw::Texture;
use image::{ImageFormat, ImageReader, Limits};

use crate::files;

/// The largest file that is read, in bytes.
const LARGEST: u64 = 64 << 20;
/// The most pixels of a picture.
const MOST_PIXELS: u64 = 64 << 20;
/// The longest side that a picture is kept at; longer ones are made smaller.
const SIDE: u32 = 2048;

/// The format of a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PictureKind {
    /// PNG.
    Png,
    /// JPEG.
    Jpeg,
    /// WebP.
    WebP,
}

impl PictureKind {
    /// Its media type, for HTTP.
    pub fn media_type(self) -> &'static str {
        self.format().to_mime_type()
    }

    fn format(self) -> ImageFormat {
        match self {
            PictureKind::Png => ImageFormat::Png,
            PictureKind::Jpeg => ImageFormat::Jpeg,
            PictureKind::WebP => ImageFormat::WebP,
        }
    }
}

/// The bytes of a backdrop's file, if it is a picture that can be read.
///
/// # Errors
/// Why there is none, for a diagnostic.
pub fn bytes(folder: &Path, backdrop: &Backdrop) -> Result<(Vec<u8>, PictureKind), String> {
    let name = backdrop.file.as_str();
    let given = Path::new(name);
    let plain = given.components().all(|part| matches!(part, Component::Normal(_)));
    if name.is_empty() || name.contains('\\') || !plain {
        return Err(format!("`{name}` is outside the book's folder"));
    }
    let read = files::open_within(folder, given).and_then(|file| files::read_open(&file, LARGEST));
    let bytes = read.map_err(|cause| match cause.kind() {
        std::io::ErrorKind::NotFound => {
            format!("there is no `{name}` in the book's folder{}", crate::near_file(folder, name))
        }
        std::io::ErrorKind::CrossesDevices => {
            format!("`{name}` is a link to a file outside the book's folder")
        }
        std::io::ErrorKind::FileTooLarge => {
            format!("`{name}` is larger than {} MiB", LARGEST >> 20)
        }
        _ => format!("cannot read `{name}`: {cause}"),
    })?;
    let kind = match image::guess_format(&bytes) {
        Ok(ImageFormat::Png) => PictureKind::Png,
        Ok(ImageFormat::Jpeg) => PictureKind::Jpeg,
        Ok(ImageFormat::WebP) => PictureKind::WebP,
        _ => return Err(format!("`{name}` is not a PNG, JPEG or WebP picture")),
    };
    let size = ImageReader::with_format(Cursor::new(&bytes), kind.format()).into_dimensions();
    let (wide, high) = size.map_err(|why| format!("`{name}` is damaged: {why}"))?;
    if u64::from(wide) * u64::from(high) > MOST_PIXELS {
        return Err(format!("`{name}` is {wide} x {high} pixels; the limit is 64 megapixels"));
    }
    Ok((bytes, kind))
}

/// Reads a backdrop's picture.
///
/// # Errors
/// Why it cannot be read, for a diagnostic.
pub fn read(folder: &Path, backdrop: &Backdrop) -> Result<Texture, String> {
    let (bytes, kind) = bytes(folder, backdrop)?;
    let mut reader = ImageReader::with_format(Cursor::new(&bytes), kind.format());
    let mut limits = Limits::default();
    limits.max_alloc = Some(MOST_PIXELS * 16);
    reader.limits(limits);
    let decoded =
        reader.decode().map_err(|why| format!("`{}` is damaged: {why}", backdrop.file))?;
    let decoded = match decoded.width().max(decoded.height()) > SIDE {
        true => decoded.thumbnail(SIDE, SIDE),
        false => decoded,
    };
    let pixels = decoded.to_rgba8();
    Ok(Texture::new(pixels.width(), pixels.height(), pixels.into_raw()))
}
