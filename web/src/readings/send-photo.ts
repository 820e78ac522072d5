import { useMutation, useQueryClient } from "@tanstack/react-query";
import { v7 as uuid } from "uuid";
import { api, take } from "../api/client";
import { queries } from "../api/queries";

/** Largest file that the server takes, bytes. */
const LARGEST = 20 * 1024 * 1024;

/** Sends a photograph of a blade; `onSent` gets its id. */
export function useSendPhoto(bladeId: string, onSent: (photo: string) => void) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (file: File) => {
      if (file.size > LARGEST) {
        throw new Error(
          `${file.name} is larger than 20 MB. Nothing was sent; make it smaller first.`,
        );
      }
      return take(
        api.POST("/api/v1/blades/{id}/photos", {
          params: { path: { id: bladeId }, query: { photo_id: uuid() } },
          body: file as unknown as string,
          bodySerializer: (body) => body as unknown as BodyInit,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      );
    },
    onSuccess: (photo) => {
      client.invalidateQueries({ queryKey: queries.photos(bladeId).queryKey });
      onSent(photo.id);
    },
  });
}
