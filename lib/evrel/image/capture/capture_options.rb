# frozen_string_literal: true

module Evrel
  module Image
    # How an image is taken. parts: numbers of those that it is to hold, nil for the whole disk; temporary: whether
    # contents that the system makes anew are kept too (see Temporary); level: of zstd; tolerate_unread: goes on where
    # sectors cannot be read: zeros stand in their place, and the manifest lists them, up to so many sectors as
    # most_unread says; checked: whether it is read back before it gets its name; shared: a Restore::SharedSource::Reader of the
    # same disk, from which the clusters come where others read them too.
    CaptureOptions = Struct.new(:parts, :temporary, :level, :tolerate_unread, :most_unread, :checked, :shared, keyword_init: true) do
      # Of programs and libraries level 1 leaves 35.8 %, 4 33.6 % in five fourths of the time, 9 32.0 % in almost five times the time;
      # above that it hardly becomes less.
      self::LEVELS = { 'quick' => -3, 'balanced' => Codec::Zstd::LEVEL, 'small' => 9 }.freeze

      def initialize(parts: nil, temporary: true, level: Codec::Zstd::LEVEL, tolerate_unread: false, most_unread: Unread::MOST,
                     checked: false, shared: nil)
        super
      end
    end
  end
end
