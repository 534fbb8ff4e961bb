# frozen_string_literal: true

module Evrel
  module Volume
    # Whether the journal of an NTFS volume ($LogFile) holds what was not
    # carried out yet (logfile.h of ntfs-3g, RESTART_PAGE_HEADER and
    # RESTART_AREA).
    module NtfsLog
      NO_CLIENT = 0xFFFF # client_in_use_list
      CLEAN = 0x0002     # flags, RESTART_VOLUME_IS_CLEAN
      UNUSED = "\xFF".b * 16
      PAGE = 4096

      module_function

      # @param stream [NtfsStream, nil] of $LogFile
      # @return [Boolean] whether it waits; also where it cannot be understood
      # @raise [Damaged, Unreadable]
      def waits?(stream)
        return true if stream.nil? || stream.size < 2 * PAGE

        pages = [stream.read(0, PAGE), stream.read(PAGE, PAGE)]
        # A journal that was emptied is all ones.
        return false if pages.first.start_with?(UNUSED)

        # Of the two copies the one that was written last rules.
        in_use, flags = pages.filter_map { |page| area(page) }.max_by(&:first)&.last(2)
        in_use.nil? || (in_use != NO_CLIENT && flags.nobits?(CLEAN))
      end

      # restart_area_offset at 24 of the page; current_lsn at 0, client_in_use_list at 12 and flags at 14 of the area.
      def area(page)
        return unless page.start_with?('RSTR', 'CHKD')

        at = page.unpack1('@24v')
        page.unpack("@#{at}Q<@#{at + 12}vv") if at + 16 <= PAGE
      end
      private_class_method :area
    end
  end
end
