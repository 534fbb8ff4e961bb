# frozen_string_literal: true

module Evrel
  module Image
    # Several clusters of a qcow2 file, faster than one by one.
    module ClustersAtOnce
      # Those that lie behind each other in the file are read at once,
      # and the strings are used again.
      # @param indexes [Array<Integer>] ascending
      # @yieldparam index [Integer]
      # @yieldparam data [String, nil] its bytes until the block returns; nil where they were not to be had in this way:
      #   `cluster` says why
      def each_cluster(indexes)
        out, buffer = Thread.current[:evrel_clusters] ||= ["\0".b * cluster_size, ''.b]
        out = "\0".b * cluster_size unless out.bytesize == cluster_size
        Spans.new(places(indexes)).each do |span|
          bytes = span.read(@file, buffer)
          span.each { |index, kind, offset, length| yield index, quick(index, kind, bytes, offset, length, out) }
        end
      end

      private

      # @return [Array<Array>] number, kind, byte offset in the file and length of each cluster; the last two nil where it is
      #   not in the file
      def places(indexes)
        per_table = cluster_size / 8
        indexes.slice_when { |one, two| one / per_table != two / per_table }.flat_map do |run|
          table = table_of(run)
          run.map { |index| [index, *place(table && table[index % per_table])] }
        end
      end

      # One second-level table for all clusters that it knows.
      # @return [Array<Integer>, nil] nil where each has to say by itself what is wrong
      def table_of(run)
        number = run.first / (cluster_size / 8)
        l2(number) if run.last * cluster_size < size && @l1[number].anybits?(Qcow2::OFFSET)
      rescue Error
        nil
      end

      def place(entry)
        return [:other, nil, nil] unless entry
        return [:packed, *packed_at(entry)] if @zstd && entry.anybits?(Qcow2Writer::COMPRESSED)
        return [:plain, entry & Qcow2::OFFSET, cluster_size] if entry.nobits?(Qcow2Writer::COMPRESSED | 1) && entry.anybits?(Qcow2::OFFSET)

        [:other, nil, nil]
      end

      def quick(index, kind, bytes, offset, length, out)
        case kind
        when :plain then @data.read_into(out, offset, length)
        when :packed then bytes && Codec::Zstd.decompress_into(out, bytes, offset, length)
        else cluster(index)
        end
      rescue Error
        nil
      end
    end
  end
end
