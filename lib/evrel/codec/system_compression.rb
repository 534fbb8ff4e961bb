# frozen_string_literal: true

require 'fiddle'

module Evrel
  module Codec
    # The two methods by which a system compresses its own files: XPRESS with
    # Huffman codes ([MS-XCA], 2.2) and LZX (of [MS-PATCH], in its cabinet form),
    # by libfsntfs, which carries them.
    module SystemCompression
      LIBRARY = Fiddle.dlopen('libfsntfs.so.1')
      SIGNATURE = [Fiddle::TYPE_VOIDP, Fiddle::TYPE_SIZE_T, Fiddle::TYPE_VOIDP, Fiddle::TYPE_VOIDP, Fiddle::TYPE_VOIDP].freeze
      METHODS = { xpress: 'libfwnt_lzxpress_huffman_decompress', lzx: 'libfwnt_lzx_decompress' }
                .transform_values { |name| Fiddle::Function.new(LIBRARY[name], SIGNATURE, Fiddle::TYPE_INT) }.freeze

      module_function

      # @param method [Symbol] :xpress or :lzx
      # @param bytes [String] one chunk
      # @param size [Integer] bytes that it unpacks to
      # @return [String]
      # @raise [Damaged]
      def decompress(method, bytes, size)
        out = "\0".b * size
        count = [size].pack('J')
        # The library may look a word ahead.
        given = bytes + ("\0".b * 8)
        done = METHODS.fetch(method).call(given, bytes.bytesize, out, count, nil)
        return out if done == 1 && count.unpack1('J') == size

        raise Damaged, "a chunk of #{bytes.bytesize} bytes does not unpack to #{size}"
      end
    end
  end
end
