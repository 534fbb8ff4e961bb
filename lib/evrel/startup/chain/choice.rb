# frozen_string_literal: true

module Evrel
  module Startup
    # What a loader starts: title as it shows it; kernel, initrds and chained
    # (another loader) as [Table::Partition or nil, path]; options is the kernel's
    # command line; where says in which file, and line, that stands; config is
    # that file, as [Table::Partition, path]; unified is the Pe that kernel and
    # ramdisk are inside of.
    Choice = Struct.new(:title, :kernel, :initrds, :options, :chained, :where, :config, :unified, keyword_init: true) do
      # @return [String, nil] "PARTUUID=…", "UUID=…" or a device name; the last one counts
      def root = options.to_s.scan(/(?:\A|\s)root=(\S+)/).last&.first&.delete('"\'')

      # @return [String, nil] what is started in the place of /sbin/init
      def init = options.to_s.scan(/(?:\A|\s)init=(\S+)/).last&.first

      # @return [Boolean] whether the root lies on something that is put together or opened first
      def mapped_root? = root.to_s.match?(%r{\A/dev/(?:mapper/|dm-|md|[^/]+/[^/]+\z)}) && !root.start_with?('/dev/disk/')
    end
  end
end
