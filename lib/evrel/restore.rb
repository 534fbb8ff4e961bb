# frozen_string_literal: true

module Evrel
  # Bringing an image onto a disk.
  module Restore
    # What a write is doing. order and kind are the id and the kind of an Order, part the number of a
    # partition or nil; done and total are bytes within the order, written and
    # to_write bytes of the whole write, earlier those of them that an earlier
    # run had done, spared those that the target had already; speed is bytes per second of late; source_retries and
    # target_retries count how often either was asked again; limit is the side
    # that the others wait for: 'target', 'processor', 'shelf', or nil; back is a Salvage::Progress as a hash while the write
    # goes back to what its source did not give at once.
    Progress = Struct.new(:order, :kind, :part, :done, :total, :written, :earlier, :to_write, :speed, :spared, :source_retries,
                          :target_retries, :limit, :back, keyword_init: true)

    # orders: Outcome of each, in order; written, spared (there already) and
    # discarded are bytes, compared clusters; mismatches: places that did not
    # read back as they should, as hashes with offset, cluster and part;
    # rewritten: places that did so only after they were written again; digest
    # as in ReadBack; taken: clusters that were not from the image itself, as
    # hashes with cluster, part and how ('zeros', or the id of another image);
    # without: numbers of parts that were left out; not_grown: number of a part
    # that keeps its size → why; retries by side; late: how many clusters a failing
    # source did not give at once.
    Result = Struct.new(:orders, :written, :spared, :discarded, :compared, :mismatches, :rewritten, :digest, :taken, :without, :retries,
                        :read_back, :resumed, :not_grown, :late, keyword_init: true) do
      # @return [Boolean] read back from the disk, and every cluster matched
      def verified? = read_back && mismatches.empty?
    end

    # What became of one order: its id and kind, seconds, its bytes, and of them those that were
    # really written, and those that the target had already.
    Outcome = Struct.new(:id, :kind, :seconds, :bytes, :resumed, :moved, :spared, keyword_init: true)
  end
end
